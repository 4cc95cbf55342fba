-- Chosen tags travel downstream, along edges that carry the value. Each says by which kinds of edges it goes on; none: it stays where it is given.
alter table tag add column travels text[] not null default '{}' check (travels <@ array['copied', 'transformed', 'aggregated']);

-- A tag that came this way, from the nearest that was given it, by so many steps. Several values may come; one's own stands alone.
create table tag_came (
  asset_id uuid not null references asset on delete cascade,
  tag_id uuid not null references tag on delete cascade,
  value text not null,
  from_id uuid not null references asset on delete cascade,
  distance int not null,
  primary key (asset_id, tag_id, value)
);
create index on tag_came (tag_id, asset_id);
create index on tag_came (from_id);
create index on tag_came (value) where value <> '';
-- Whom a tag does not come to, nor what lies behind them this way.
create table tag_refusal (
  asset_id uuid not null references asset on delete cascade,
  tag_id uuid not null references tag on delete cascade,
  refused_by uuid references person on delete set null,
  refused_at timestamptz not null default now(),
  primary key (asset_id, tag_id)
);
create index on tag_refusal (tag_id);

/* What carries a tag that is in use: given, or come along lineage by so many steps. Who searches by tags asks here. */
create view tag_here as
select g.asset_id, g.tag_id, g.value, g.distance, t.name
from (
  select asset_id, tag_id, value, null::int as distance from asset_tag
  union all
  select asset_id, tag_id, value, distance from tag_came
) g
join tag t on t.id = g.tag_id
where t.removed_at is null;

create trigger came_touched_come after insert on tag_came referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger came_touched_go after delete on tag_came referencing old table as old_rows for each statement execute function touch_old('asset_id');

-- By what happens to values does a table feed another; none: only which rows there are follows from it.
alter table lineage_feed add column kinds text[] not null default '{}';
drop function feeds_of(uuid[]);
create function feeds_of(flows uuid[]) returns table (flow_id uuid, from_id uuid, to_id uuid, kinds text[]) language sql stable as $$
  select x.flow_id, x.from_id, x.to_id, coalesce(array_agg(distinct x.kind) filter (where x.kind is not null), '{}')
  from (
    select e.flow_id, seen_in(f.kind, f.id, f.parent_id) as from_id, seen_in(t.kind, t.id, t.parent_id) as to_id, e.kind
    from lineage_edge e
    join asset f on f.id = e.from_id
    join asset t on t.id = e.to_id
    where e.flow_id = any(flows) and not e.wrong
    union
    select i.flow_id, seen_in(c.kind, c.id, c.parent_id), i.to_id, null
    from lineage_influence i
    join asset c on c.id = i.from_id
    where i.flow_id = any(flows) and i.kind <> 'unused'
  ) x
  where x.from_id <> x.to_id
  group by 1, 2, 3
$$;
create function tell_feeds(flows uuid[], anew boolean) returns void language sql as $$
  delete from lineage_feed x where anew and x.flow_id = any(flows);
  insert into lineage_feed (flow_id, from_id, to_id, kinds)
  select * from feeds_of(flows)
  on conflict (flow_id, from_id, to_id) do update set kinds = excluded.kinds where lineage_feed.kinds <> excluded.kinds
$$;
create or replace function follow_feeds() returns trigger language plpgsql as $$
declare
  touched_flows uuid[] := array(select distinct t.flow_id from touched t join flow l on l.id = t.flow_id);
begin
  if cardinality(touched_flows) > 0 then perform tell_feeds(touched_flows, tg_op <> 'INSERT'); end if;
  return null;
end $$;
/* A column that is part of another table from now on takes its edges along. */
create function feeds_by_moved_column() returns trigger language plpgsql as $$
begin
  perform tell_feeds(
    array(
      select e.flow_id from lineage_edge e where e.from_id = new.id or e.to_id = new.id
      union
      select i.flow_id from lineage_influence i where i.from_id = new.id),
    true);
  return null;
end $$;
create trigger feeds_move after update of parent_id on asset for each row
  when (new.kind = 'column' and old.parent_id is distinct from new.parent_id) execute function feeds_by_moved_column();
alter table lineage_feed disable trigger user;
update lineage_feed f
set kinds = n.kinds
from feeds_of(array(select id from flow)) n
where (n.flow_id, n.from_id, n.to_id) = (f.flow_id, f.from_id, f.to_id) and f.kinds <> n.kinds;
alter table lineage_feed enable trigger user;

/*
 * Steps of tags into a place. One that stands at a column goes to columns, as the edges do; one that stands at a table goes to each table that gets values of a
 * column of it.
 */
create function tag_steps_to(place uuid) returns table (from_id uuid, kind text) language sql stable as $$
  select e.from_id, e.kind from lineage_edge e where e.to_id = place and not e.wrong
  union
  select f.from_id, k from lineage_feed f cross join unnest(f.kinds) k where f.to_id = place
$$;

/*
 * What arrives at some assets, and at all that lies behind them, ring by ring, as with classes: by the shortest way, of equal ones from the first asset. It does not
 * come to what was given the tag itself, with whichever value, nor to what refuses it, nor to what may not carry it; and goes no further from there.
 */
create function settle_tags(ids uuid[]) returns void language plpgsql set client_min_messages = warning set jit = off as $$
declare
  nth int := 0;
  found int := 0;
  furthest int;
begin
  create temp table if not exists tag_behind (id uuid primary key, ring int) on commit delete rows;
  create temp table if not exists tag_step (from_id uuid, to_id uuid, kind text) on commit delete rows;
  create temp table if not exists tag_seed (id uuid, tag_id uuid, value text, from_id uuid, distance int) on commit delete rows;
  create temp table if not exists tag_way (
    id uuid, tag_id uuid, value text, from_id uuid, distance int, primary key (id, tag_id, value)
  ) on commit delete rows;
  create index if not exists tag_behind_ring on tag_behind (ring);
  create index if not exists tag_step_from on tag_step (from_id);
  create index if not exists tag_way_distance on tag_way (distance);
  delete from tag_behind;
  delete from tag_step;
  delete from tag_seed;
  delete from tag_way;
  -- All that lies behind them, with the steps that lead there: each is looked for once, and followed as often as there are rings.
  insert into tag_behind select a.id, 0 from asset a where a.id = any(ids);
  loop
    insert into tag_step
    select b.id, e.to_id, e.kind
    from tag_behind b
    cross join lateral (select x.to_id, x.kind from lineage_edge x where x.from_id = b.id and not x.wrong offset 0) e
    where b.ring = nth
    union
    select b.id, f.to_id, k
    from tag_behind b
    cross join lateral (select x.to_id, x.kinds from lineage_feed x where x.from_id = b.id offset 0) f
    cross join unnest(f.kinds) k
    where b.ring = nth;
    insert into tag_behind
    select distinct s.to_id, nth + 1
    from tag_behind b
    join tag_step s on s.from_id = b.id
    where b.ring = nth and s.kind <> 'masked'
    on conflict do nothing;
    get diagnostics found = row_count;
    exit when found = 0;
    nth := nth + 1;
  end loop;
  insert into tag_way
  select b.id, k.tag_id, k.value, b.id, 0
  from tag_behind b
  cross join lateral (select x.tag_id, x.value from asset_tag x where x.asset_id = b.id offset 0) k
  join tag t on t.id = k.tag_id
  where t.removed_at is null and t.travels <> '{}';
  insert into tag_seed
  select e.id, k.tag_id, k.value, k.from_id, k.distance + 1
  from (
    select b.id, x.from_id, x.kind
    from tag_behind b
    cross join lateral (select x.from_id, x.kind from lineage_edge x where x.to_id = b.id and not x.wrong offset 0) x
    union
    select b.id, f.from_id, k
    from tag_behind b
    cross join lateral (select x.from_id, x.kinds from lineage_feed x where x.to_id = b.id offset 0) f
    cross join unnest(f.kinds) k
  ) e
  cross join lateral (
    select x.tag_id, x.value, x.asset_id as from_id, 0 as distance from asset_tag x where x.asset_id = e.from_id
    union all
    select x.tag_id, x.value, x.from_id, x.distance from tag_came x where x.asset_id = e.from_id
    offset 0
  ) k
  join tag t on t.id = k.tag_id
  where not exists (select from tag_behind o where o.id = e.from_id) and t.removed_at is null and e.kind = any(t.travels);
  nth := 0;
  furthest := coalesce((select max(distance) from tag_seed), 0);
  loop
    nth := nth + 1;
    insert into tag_way
    select distinct on (x.id, x.tag_id, x.value) x.id, x.tag_id, x.value, x.from_id, nth
    from (
      select s.id, s.tag_id, s.value, s.from_id from tag_seed s where s.distance = nth
      union all
      select e.to_id, w.tag_id, w.value, w.from_id
      from tag_way w
      join tag_step e on e.from_id = w.id
      join tag t on t.id = w.tag_id
      where w.distance = nth - 1 and e.kind = any(t.travels)
    ) x
    join tag t on t.id = x.tag_id
    join asset a on a.id = x.id
    where (t.kinds is null or a.kind = any(t.kinds))
      and not exists (select from asset_tag o where o.asset_id = x.id and o.tag_id = x.tag_id)
      and not exists (select from tag_refusal r where r.asset_id = x.id and r.tag_id = x.tag_id)
    order by x.id, x.tag_id, x.value, x.from_id
    on conflict do nothing;
    get diagnostics found = row_count;
    exit when found = 0 and nth >= furthest;
  end loop;
  delete from tag_came c
  using tag_behind b
  where c.asset_id = b.id
    and not exists (
      select from tag_way w where w.id = c.asset_id and w.tag_id = c.tag_id and w.value = c.value and w.distance > 0);
  insert into tag_came (asset_id, tag_id, value, from_id, distance)
  select w.id, w.tag_id, w.value, w.from_id, w.distance
  from tag_way w
  left join lateral (
    select x.from_id, x.distance from tag_came x where x.asset_id = w.id and x.tag_id = w.tag_id and x.value = w.value offset 0
  ) c on true
  where w.distance > 0 and (c.from_id is distinct from w.from_id or c.distance is distinct from w.distance)
  on conflict (asset_id, tag_id, value) do update set from_id = excluded.from_id, distance = excluded.distance;
end $$;

-- Under the lock of the classes, and with them: two locks would be taken in one order by one transaction, and in the other by the next.
create table tag_due (id bigint generated always as identity primary key, ids uuid[] not null);
create or replace function settle_travel_due() returns void language plpgsql as $$
declare
  due uuid[];
  due_tags uuid[];
begin
  if not exists (select from travel_due) and not exists (select from tag_due) then return; end if;
  perform pg_advisory_xact_lock(hashtextextended('travel', 0));
  with done as (delete from travel_due returning ids)
  select array_agg(distinct x.id) into due from done cross join unnest(done.ids) x(id);
  if due is not null then perform settle_travel(due); end if;
  with done as (delete from tag_due returning ids)
  select array_agg(distinct x.id) into due_tags from done cross join unnest(done.ids) x(id);
  if due_tags is not null then perform settle_tags(due_tags); end if;
end $$;
create constraint trigger settle after insert on tag_due deferrable initially deferred for each row execute function travel_at_end();
create function tag_is_due(ids uuid[]) returns void language sql as $$
  insert into tag_due (ids) select ids where cardinality(ids) > 0
$$;
/* Most catalogs have no tag that travels, or few: nothing is looked for then. */
create function tags_travel() returns boolean language sql stable as $$
  select exists (select from tag where travels <> '{}') or exists (select from tag_came)
$$;

-- Edges: what they lead to, and the table that this is in.
create function tags_by_new_edges() returns trigger language plpgsql as $$
begin
  if not tags_travel() then return null; end if;
  perform tag_is_due(array(
    select distinct x.to_id
    from fresh e
    join asset f on f.id = e.from_id
    join asset t on t.id = e.to_id
    cross join lateral (
      values (f.id, t.id), (seen_in(f.kind, f.id, f.parent_id), seen_in(t.kind, t.id, t.parent_id))
    ) x(from_id, to_id)
    where exists (select from asset_tag g join tag k on k.id = g.tag_id where g.asset_id = x.from_id and k.travels <> '{}')
      or exists (select from tag_came c where c.asset_id = x.from_id)));
  return null;
end $$;
create function tags_by_old_edges() returns trigger language plpgsql as $$
begin
  perform tag_is_due(array(
    select distinct x.id
    from old_rows e
    join asset t on t.id = e.to_id
    cross join lateral (values (t.id), (seen_in(t.kind, t.id, t.parent_id))) x(id)
    where exists (select from tag_came c where c.asset_id = x.id)));
  return null;
end $$;
create function tags_by_changed_edges() returns trigger language plpgsql as $$
begin
  if not tags_travel() then return null; end if;
  perform tag_is_due(array(
    with changed as (
      select o.to_id as old_to, e.to_id
      from fresh e
      full join old_rows o on o.flow_id = e.flow_id and o.from_id = e.from_id and o.to_id = e.to_id
      where o.kind is distinct from e.kind or o.wrong is distinct from e.wrong
    )
    select distinct x.id
    from changed c
    join asset t on t.id in (c.old_to, c.to_id)
    cross join lateral (values (t.id), (seen_in(t.kind, t.id, t.parent_id))) x(id)));
  return null;
end $$;
create trigger tags_come after insert on lineage_edge referencing new table as fresh for each statement execute function tags_by_new_edges();
create trigger tags_go after delete on lineage_edge referencing old table as old_rows for each statement execute function tags_by_old_edges();
create trigger tags_change after update on lineage_edge referencing new table as fresh old table as old_rows for each statement execute function tags_by_changed_edges();

-- What is given and taken, refused and let in.
create function tags_by_given() returns trigger language plpgsql as $$
begin
  if tg_op <> 'INSERT' then
    perform tag_is_due(array(
      select distinct g.asset_id from old_rows g join tag t on t.id = g.tag_id where t.travels <> '{}'));
  end if;
  if tg_op <> 'DELETE' then
    perform tag_is_due(array(
      select distinct g.asset_id from fresh g join tag t on t.id = g.tag_id where t.travels <> '{}'));
  end if;
  return null;
end $$;
create trigger travel_come after insert on asset_tag referencing new table as fresh for each statement execute function tags_by_given();
create trigger travel_go after delete on asset_tag referencing old table as old_rows for each statement execute function tags_by_given();
create trigger travel_change after update on asset_tag referencing new table as fresh old table as old_rows for each statement execute function tags_by_given();
-- Where it came from is removed: it may come from elsewhere, too.
create function tags_by_lost() returns trigger language plpgsql as $$
begin
  perform tag_is_due(array(
    select distinct c.asset_id from old_rows c
    where not exists (select from asset f where f.id = c.from_id) and exists (select from asset a where a.id = c.asset_id)));
  return null;
end $$;
create trigger travel_go after delete on tag_came referencing old table as old_rows for each statement execute function tags_by_lost();
create trigger travel_come after insert on tag_refusal referencing new table as fresh for each statement execute function tags_by_given();
create trigger travel_go after delete on tag_refusal referencing old table as old_rows for each statement execute function tags_by_given();

-- A tag that goes on otherwise, is removed or brought back, or may be carried by other kinds.
create function tags_by_tag() returns trigger language plpgsql as $$
begin
  perform tag_is_due(array(
    select asset_id from asset_tag where tag_id = new.id union select asset_id from tag_came where tag_id = new.id));
  return null;
end $$;
create trigger travel after update of travels, removed_at, kinds on tag for each row
  when ((old.travels, old.removed_at, old.kinds) is distinct from (new.travels, new.removed_at, new.kinds) and (old.travels <> '{}' or new.travels <> '{}'))
  execute function tags_by_tag();

-- A column that goes, or is part of another table from now on, takes its edges along: what the tables lead to changes with it.
create function tags_by_gone_assets() returns trigger language plpgsql as $$
begin
  perform tag_is_due(array(
    select distinct c.asset_id from old_rows a join tag_came c on c.asset_id = a.parent_id));
  return null;
end $$;
create trigger tags_go after delete on asset referencing old table as old_rows for each statement execute function tags_by_gone_assets();
create function tags_by_moved_asset() returns trigger language plpgsql as $$
begin
  if not tags_travel() then return null; end if;
  perform tag_is_due(array(
    select x.id from unnest(array[new.id, old.parent_id, new.parent_id]) x(id) where x.id is not null
    union
    select seen_in(t.kind, t.id, t.parent_id)
    from lineage_edge e
    join asset t on t.id = e.to_id
    where e.from_id = new.id
    union
    select x.to_id
    from asset c
    join lineage_edge e on e.from_id = c.id
    join asset t on t.id = e.to_id
    cross join lateral (values (seen_in(t.kind, t.id, t.parent_id))) x(to_id)
    where c.parent_id = new.id and old.kind <> new.kind));
  return null;
end $$;
create trigger tags_move after update of parent_id, kind on asset for each row
  when ((old.parent_id, old.kind) is distinct from (new.parent_id, new.kind)) execute function tags_by_moved_asset();
