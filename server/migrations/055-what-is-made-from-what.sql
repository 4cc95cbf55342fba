-- Whoever keeps assets in memory follows what is made from what: where it leads to is told.
create trigger edge_touched_come after insert on lineage_edge referencing new table as fresh for each statement execute function touch_fresh('to_id');
create trigger edge_touched_changed after update on lineage_edge referencing new table as fresh old table as old_rows for each statement execute function touch_moved('to_id');
create trigger edge_touched_go after delete on lineage_edge referencing old table as old_rows for each statement execute function touch_old('to_id');
create trigger feed_touched_come after insert on lineage_feed referencing new table as fresh for each statement execute function touch_fresh('to_id');
create trigger feed_touched_changed after update on lineage_feed referencing new table as fresh old table as old_rows for each statement execute function touch_moved('to_id');
create trigger feed_touched_go after delete on lineage_feed referencing old table as old_rows for each statement execute function touch_old('to_id');
