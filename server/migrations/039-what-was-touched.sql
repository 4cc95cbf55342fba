-- Which assets changed in what they are found by, and in which transaction: whoever keeps a picture of the catalog in memory reads what it has not read yet.
-- Without an asset: something that assets name (a source, a domain, a person, a term, a class) is called otherwise. Written by triggers, so that no way of writing can
-- forget it. Rows are taken away after a day: who has not looked for so long reads everything anew.
create table touched (
  at xid8 not null default pg_current_xact_id(),
  asset_id uuid,
  noted timestamptz not null default now()
);
create index on touched (at);
create index on touched (noted);

create function touch_fresh() returns trigger language plpgsql as $$
begin
  execute format('insert into touched (asset_id) select distinct %I from fresh', tg_argv[0]);
  return null;
end $$;
create function touch_old() returns trigger language plpgsql as $$
begin
  execute format('insert into touched (asset_id) select distinct %I from old_rows', tg_argv[0]);
  return null;
end $$;
create function touch_row() returns trigger language plpgsql as $$
begin
  insert into touched (asset_id) values (new.id);
  return null;
end $$;
create function touch_names() returns trigger language plpgsql as $$
begin
  insert into touched (asset_id) values (null);
  return null;
end $$;

create trigger asset_touched_come after insert on asset referencing new table as fresh for each statement execute function touch_fresh('id');
create trigger asset_touched_go after delete on asset referencing old table as old_rows for each statement execute function touch_old('id');
-- A scan writes every asset it sees again: only those count that are found otherwise now.
create trigger asset_touched
  after update of name, key, parent_id, source_id, domain_id, kind, position, description, standing, level, words, gone_at on asset
  for each row when (
    (old.name, old.key, old.parent_id, old.source_id, old.domain_id, old.kind, old.position, old.description, old.standing, old.level, old.words, old.gone_at)
    is distinct from
    (new.name, new.key, new.parent_id, new.source_id, new.domain_id, new.kind, new.position, new.description, new.standing, new.level, new.words, new.gone_at)
  ) execute function touch_row();

create trigger carried_touched_come after insert on carried referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger carried_touched_go after delete on carried referencing old table as old_rows for each statement execute function touch_old('asset_id');
create trigger person_touched_come after insert on asset_person referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger person_touched_go after delete on asset_person referencing old table as old_rows for each statement execute function touch_old('asset_id');
create trigger term_touched_come after insert on asset_term referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger term_touched_go after delete on asset_term referencing old table as old_rows for each statement execute function touch_old('asset_id');
create trigger use_touched_come after insert on asset_use referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger use_touched_changed after update on asset_use referencing new table as fresh for each statement execute function touch_fresh('asset_id');

create trigger source_named after insert or delete or update of name on source for each statement execute function touch_names();
create trigger domain_named after insert or delete or update of name, parent_id on domain for each statement execute function touch_names();
create trigger person_named after insert or delete or update of name on person for each statement execute function touch_names();
create trigger term_named after insert or delete or update of name on term for each statement execute function touch_names();
create trigger class_named after insert or delete or update of label on data_class for each statement execute function touch_names();
