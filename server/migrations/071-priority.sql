-- How much assets matter: 0 ordinary, 1 important, 2 critical. People state it, rules find it, and what something is made of inherits it from there.
alter table asset
  add column priority_set smallint check (priority_set between 0 and 2),
  add column priority_reason text;
create index asset_priority_set on asset (id) where priority_set is not null;

-- Facts that make something matter: what the filter finds has at least this priority.
create table priority_rule (
  id uuid primary key default gen_random_uuid(),
  name text not null unique,
  filter text not null,
  priority smallint not null check (priority between 1 and 2),
  enabled boolean not null default true,
  made_by uuid references person (id) on delete set null,
  created_at timestamptz not null default now(),
  version int not null default 1
);
-- What each rule found when it was last asked.
create table priority_match (
  rule_id uuid not null references priority_rule (id) on delete cascade,
  asset_id uuid not null references asset (id) on delete cascade,
  primary key (rule_id, asset_id)
);
create index priority_match_asset on priority_match (asset_id);

-- What follows: by which rule an asset matters itself (what a person states stands above it, in the asset's own row), and what it inherits, from which asset, by
-- how many steps. Only what is more than ordinary has a row.
create table asset_priority (
  asset_id uuid primary key references asset (id) on delete cascade,
  found smallint not null default 0,
  rule_id uuid references priority_rule (id) on delete set null,
  inherited smallint not null default 0,
  from_id uuid references asset (id) on delete cascade,
  distance int,
  check (found > 0 or inherited > 0),
  check ((inherited > 0) = (from_id is not null))
);
create index asset_priority_from on asset_priority (from_id);
create index asset_priority_rule on asset_priority (rule_id);
-- When all of it was last worked out.
create table priority_state (one boolean primary key default true check (one), settled_at timestamptz);
insert into priority_state default values;

create trigger asset_priority_stated after update of priority_set on asset
  for each row when (old.priority_set is distinct from new.priority_set) execute function touch_row();
create trigger priority_touched_come after insert on asset_priority referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger priority_touched_changed after update on asset_priority referencing new table as fresh old table as old_rows for each statement execute function touch_moved('asset_id');
create trigger priority_touched_go after delete on asset_priority referencing old table as old_rows for each statement execute function touch_old('asset_id');
drop trigger asset_changed on asset;
create trigger asset_changed before update of
  version, name, parent_id, source_id, domain_id, native, native_comment, gone_at, description, standing, level_set, priority_set on asset
  for each row when (
    (old.version, old.name, old.parent_id, old.source_id, old.domain_id, old.native, old.native_comment, old.gone_at, old.description, old.standing, old.level_set, old.priority_set)
    is distinct from
    (new.version, new.name, new.parent_id, new.source_id, new.domain_id, new.native, new.native_comment, new.gone_at, new.description, new.standing, new.level_set, new.priority_set)
  ) execute function asset_changed();

/*
 * What everything inherits: the highest priority of what is made from it, from the nearest that has it itself, by steps upstream; of equally near ones from the
 * first id. From a relation it goes to the relations, the flows and the columns that its rows come by, and where the relation matters itself, to the columns that
 * its own columns are made from; from a column to the columns that it is made from. What holds a column that matters, or inherits, has it with one step more, and
 * hands on nothing of that. Only differences are written. Returns how many assets changed.
 */
create function settle_priority() returns int language plpgsql set client_min_messages = warning set jit = off as $$
declare
  high smallint;
  ring int;
  found_now int;
  met int := 0;
  looked int := 500;
  changed int := 0;
begin
  -- Two at once would write the same.
  perform pg_advisory_xact_lock(hashtextextended('priority', 0));
  create temp table if not exists priority_own (id uuid primary key, grade smallint, found smallint, rule_id uuid) on commit delete rows;
  create temp table if not exists priority_way (id uuid primary key, grade smallint, from_id uuid, distance int) on commit delete rows;
  create temp table if not exists priority_ring (id uuid primary key, from_id uuid, whole boolean) on commit delete rows;
  create temp table if not exists priority_next (id uuid primary key, from_id uuid) on commit delete rows;
  delete from priority_own;
  delete from priority_way;
  delete from priority_ring;
  insert into priority_own
  select a.id, coalesce(a.priority_set, f.priority), coalesce(f.priority, 0), f.rule_id
  from (
    select distinct on (m.asset_id) m.asset_id, r.priority, r.id as rule_id
    from priority_match m
    join priority_rule r on r.id = m.rule_id and r.enabled
    order by m.asset_id, r.priority desc, r.name
  ) f
  full join (select id, priority_set from asset where priority_set is not null) s on s.id = f.asset_id
  join asset a on a.id = coalesce(s.id, f.asset_id) and a.gone_at is null;
  analyze priority_own;
  foreach high in array array[2, 1] loop
    delete from priority_ring;
    insert into priority_ring select id, id, true from priority_own where grade = high;
    ring := 0;
    loop
      ring := ring + 1;
      delete from priority_next;
      insert into priority_next
      select distinct on (x.id) x.id, x.from_id
      from (
        select s.id, r.from_id
        from priority_ring r
        cross join lateral (
          select f.from_id as id from lineage_feed f where f.to_id = r.id
          union all
          select l.asset_id from lineage_feed f join flow l on l.id = f.flow_id where f.to_id = r.id and l.asset_id is not null
          union all
          select i.from_id from lineage_influence i where i.to_id = r.id and i.kind <> 'unused'
          union all
          select e.from_id from lineage_edge e where e.to_id = r.id and not e.wrong
          union all
          select e.from_id
          from asset c
          join lineage_edge e on e.to_id = c.id and not e.wrong
          where r.whole and c.parent_id = r.id and c.kind = 'column' and c.gone_at is null
          offset 0
        ) s
      ) x
      where x.id <> x.from_id
      order by x.id, x.from_id;
      delete from priority_next n using priority_way w where w.id = n.id;
      analyze priority_next;
      delete from priority_next n
      where not exists (select from asset a where a.id = n.id and a.gone_at is null);
      exit when not exists (select from priority_next);
      insert into priority_way select id, high, from_id, ring from priority_next;
      get diagnostics found_now = row_count;
      met := met + found_now;
      -- Plans follow what there is; to look at all of it in each ring would take longer than the ring.
      if met > 2 * looked then
        analyze priority_way;
        looked := met;
      end if;
      -- What matters as much itself has handed it on already, by fewer steps.
      delete from priority_ring;
      insert into priority_ring
      select n.id, n.from_id, false
      from priority_next n
      where not exists (select from priority_own o where o.id = n.id and o.grade >= high);
      analyze priority_ring;
    end loop;
  end loop;
  insert into priority_way
  select distinct on (x.parent_id) x.parent_id, x.grade, x.from_id, x.distance
  from (
    select c.parent_id, w.grade, w.from_id, w.distance + 1 as distance
    from priority_way w
    join asset c on c.id = w.id and c.kind = 'column'
    union all
    select c.parent_id, o.grade, o.id, 1
    from priority_own o
    join asset c on c.id = o.id and c.kind = 'column'
    where o.grade > 0
  ) x
  where x.parent_id <> x.from_id
  order by x.parent_id, x.grade desc, x.distance, x.from_id
  on conflict (id) do update set grade = excluded.grade, from_id = excluded.from_id, distance = excluded.distance
    where excluded.grade > priority_way.grade
      or excluded.grade = priority_way.grade
        and (excluded.distance, excluded.from_id) < (priority_way.distance, priority_way.from_id);
  create temp table if not exists priority_now (
    asset_id uuid primary key, found smallint, rule_id uuid, inherited smallint, from_id uuid, distance int
  ) on commit delete rows;
  delete from priority_now;
  insert into priority_now
  select coalesce(o.id, w.id), coalesce(o.found, 0), o.rule_id, coalesce(w.grade, 0), w.from_id, w.distance
  from priority_own o
  full join priority_way w on w.id = o.id
  where coalesce(o.found, 0) > 0 or coalesce(w.grade, 0) > 0;
  delete from asset_priority p where not exists (select from priority_now n where n.asset_id = p.asset_id);
  get diagnostics found_now = row_count;
  changed := changed + found_now;
  insert into asset_priority (asset_id, found, rule_id, inherited, from_id, distance)
  select n.asset_id, n.found, n.rule_id, n.inherited, n.from_id, n.distance
  from priority_now n
  left join asset_priority p on p.asset_id = n.asset_id
  where (p.found, p.rule_id, p.inherited, p.from_id, p.distance) is distinct from (n.found, n.rule_id, n.inherited, n.from_id, n.distance)
  on conflict (asset_id) do update set
    found = excluded.found, rule_id = excluded.rule_id, inherited = excluded.inherited, from_id = excluded.from_id, distance = excluded.distance;
  get diagnostics found_now = row_count;
  update priority_state set settled_at = now();
  return changed + found_now;
end $$;
