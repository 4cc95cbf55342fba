-- What assets are found by, too: when they were certified, and when their source was last read.
create trigger certification_touched_come after insert on certification referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger certification_touched_changed after update on certification referencing new table as fresh old table as old_rows for each statement execute function touch_moved('asset_id');
create trigger certification_touched_go after delete on certification referencing old table as old_rows for each statement execute function touch_old('asset_id');
create trigger source_read_first after insert on scan_run
  for each row when (new.state in ('done', 'partly done')) execute function touch_names();
create trigger source_read after update of state, ended_at on scan_run
  for each row when (new.state in ('done', 'partly done') and (old.state, old.ended_at) is distinct from (new.state, new.ended_at))
  execute function touch_names();
