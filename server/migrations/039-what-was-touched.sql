-- Which assets changed in what they are found by, and in which transaction: whoever keeps a picture of the catalog in memory reads what it has not read yet.
-- Without assets: something that assets name (a source, a domain, a person, a term, a class) is called otherwise. Written by triggers, so that no way of writing can
-- forget it. Rows are taken away after a day: who has not looked for so long reads everything anew.
create table touched (
  at xid8 not null default pg_current_xact_id(),
  -- Those of one statement together: a first scan brings hundreds of thousands.
  asset_ids uuid[],
  noted timestamptz not null default now()
);
create index on touched (at);
-- Rows come in the order of their time: an index of ranges costs next to nothing while they come.
create index on touched using brin (noted);

create function touch_fresh() returns trigger language plpgsql as $$
begin
  execute format('insert into touched (asset_ids) select array_agg(distinct %1$I) from fresh having count(*) > 0', tg_argv[0]);
  return null;
end $$;
create function touch_old() returns trigger language plpgsql as $$
begin
  execute format('insert into touched (asset_ids) select array_agg(distinct %1$I) from old_rows having count(*) > 0', tg_argv[0]);
  return null;
end $$;
create function touch_moved() returns trigger language plpgsql as $$
begin
  execute format(
    'insert into touched (asset_ids) select array_agg(id) from (select %1$I as id from fresh union select %1$I from old_rows) both_of having count(*) > 0',
    tg_argv[0]);
  return null;
end $$;
create function touch_row() returns trigger language plpgsql as $$
begin
  insert into touched (asset_ids) values (array[new.id]);
  return null;
end $$;
create function touch_names() returns trigger language plpgsql as $$
begin
  insert into touched (asset_ids) values (null);
  return null;
end $$;
create function touch_new_assets() returns trigger language plpgsql as $$
begin
  insert into touched (asset_ids) select array_agg(id) from fresh having count(*) > 0;
  return null;
end $$;

create trigger asset_touched_come after insert on asset referencing new table as fresh for each statement execute function touch_new_assets();
create trigger asset_touched_go after delete on asset referencing old table as old_rows for each statement execute function touch_old('id');
-- A scan writes every asset it sees again: only those count that are found otherwise now.
create trigger asset_touched
  after update of
    name, key, parent_id, source_id, domain_id, kind, position, description, standing, level, level_found, level_set, rises, words, gone_at, native, first_seen on asset
  for each row when (
    (old.name, old.key, old.parent_id, old.source_id, old.domain_id, old.kind, old.position, old.description, old.standing, old.level, old.words, old.gone_at, old.first_seen,
      old.native ->> 'type', old.native ->> 'returns', old.native ->> 'form')
    is distinct from
    (new.name, new.key, new.parent_id, new.source_id, new.domain_id, new.kind, new.position, new.description, new.standing, new.level, new.words, new.gone_at, new.first_seen,
      new.native ->> 'type', new.native ->> 'returns', new.native ->> 'form')
  ) execute function touch_row();

create trigger carried_touched_come after insert on carried referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger carried_touched_go after delete on carried referencing old table as old_rows for each statement execute function touch_old('asset_id');
create trigger person_touched_come after insert on asset_person referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger person_touched_changed after update on asset_person referencing new table as fresh old table as old_rows for each statement execute function touch_moved('asset_id');
create trigger person_touched_go after delete on asset_person referencing old table as old_rows for each statement execute function touch_old('asset_id');
create trigger term_touched_come after insert on asset_term referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger term_touched_changed after update on asset_term referencing new table as fresh old table as old_rows for each statement execute function touch_moved('asset_id');
create trigger term_touched_go after delete on asset_term referencing old table as old_rows for each statement execute function touch_old('asset_id');
create trigger use_touched_come after insert on asset_use referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger use_touched_changed after update on asset_use referencing new table as fresh old table as old_rows for each statement execute function touch_moved('asset_id');
create trigger use_touched_go after delete on asset_use referencing old table as old_rows for each statement execute function touch_old('asset_id');

create trigger source_named after insert or delete or update of name on source for each statement execute function touch_names();
create trigger domain_named after insert or delete or update of name, parent_id on domain for each statement execute function touch_names();
create trigger person_named after insert or delete or update of name on person for each statement execute function touch_names();
create trigger term_named after insert or delete or update of name on term for each statement execute function touch_names();
create trigger class_named after insert or delete or update of label on data_class for each statement execute function touch_names();

-- Findings that wait for a person: to settle by what is stored, or dismissed and saying much more now than when they were. A list of them is asked for far
-- more often than one of them changes.
create view finding_waiting as
  select c.asset_id, c.class_key, f.confidence
  from carried c
  join claim f on f.asset_id = c.asset_id and f.class_key = c.class_key
  where c.via = 'itself' and c.how = 'to-settle'
  union
  select d.asset_id, d.class_key, f.confidence
  from finding_decision d
  join claim f on f.asset_id = d.asset_id and f.class_key = d.class_key
  where d.decision = 'dismissed' and d.seen is not null
    and (f.confidence >= (d.seen ->> 'confidence')::float + 0.15 or f.share >= (d.seen ->> 'share')::float + 0.25);

create function touch_carrier() returns trigger language plpgsql as $$
begin
  insert into touched (asset_ids) values (array[new.asset_id]);
  return null;
end $$;
create trigger carried_touched after update on carried
  for each row when (old.how is distinct from new.how) execute function touch_carrier();
create trigger claim_touched after update on claim
  for each row when (old.confidence is distinct from new.confidence or old.share is distinct from new.share or old.asset_id is distinct from new.asset_id) execute function touch_carrier();
create trigger claim_touched_come after insert on claim referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger decision_touched_come after insert on finding_decision referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger decision_touched_changed after update on finding_decision referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger decision_touched_go after delete on finding_decision referencing old table as old_rows for each statement execute function touch_old('asset_id');
