-- Classes travel downstream, along edges that carry the value. Each says by which kinds of edges it still goes on; what ships with Idrel as it ships: copied and transformed.
alter table data_class add column travels text[] not null default array['copied', 'transformed']
  check (travels <@ array['copied', 'transformed', 'aggregated']);

-- What came this way has via 'lineage', the nearest column that carries it itself, and so many steps.
alter table carried drop constraint carried_via_check;
alter table carried add constraint carried_via_check check (via in ('itself', 'inside', 'lineage'));
alter table carried add column distance int;
create index carried_by_lineage on carried (asset_id, class_key) where via = 'lineage';

-- Of whose classes by lineage something changed: their levels are to be worked out.
create table travel_moved (asset_id uuid primary key);
-- What arrives at these may be other than it is: worked out when it is asked for, and before the transaction ends.
create table travel_due (id bigint generated always as identity primary key, ids uuid[] not null);

/* What holds a column holds also what came to it; what is carried in both ways is told as the surer of them. */
create or replace function carried_now(ids uuid[]) returns table (asset_id uuid, class_key text, from_id uuid, via text, how text) language sql stable as $$
  with said as (
    select asset_id, class_key,
           case d.decision
             when 'confirmed' then case when f.state is null then 'person' else 'confirmed' end
             when 'dismissed' then 'dismissed'
             else f.state
           end as how
    from (select x.asset_id, x.class_key, x.state from finding x where x.asset_id = any(ids)) f
    full join (select x.asset_id, x.class_key, x.decision from finding_decision x where x.asset_id = any(ids)) d using (asset_id, class_key)
  ),
  came as (select k.asset_id, k.class_key, k.how from carried k where k.asset_id = any(ids) and k.via = 'lineage')
  select s.asset_id, s.class_key, s.asset_id, 'itself', s.how
  from said s
  where s.how <> 'dismissed'
  union all
  select a.parent_id, s.class_key, s.asset_id, 'inside', (array_agg(s.how order by s.how = 'to-settle', s.came))[1]
  from (select *, false as came from said union all select *, true from came) s
  join asset a on a.id = s.asset_id
  where s.how <> 'dismissed' and a.kind = 'column' and a.parent_id is not null and a.gone_at is null
  group by a.parent_id, s.class_key, s.asset_id
$$;

create or replace function settle_carried(ids uuid[]) returns void language sql as $$
  with now as materialized (select * from carried_now(ids)),
  lost as (
    delete from carried c
    where c.from_id = any(ids) and c.via <> 'lineage'
      and not exists (
        select from now n where n.asset_id = c.asset_id and n.class_key = c.class_key and n.from_id = c.from_id)
  )
  insert into carried (asset_id, class_key, from_id, via, how)
  select n.asset_id, n.class_key, n.from_id, n.via, n.how
  from now n
  left join carried c on c.asset_id = n.asset_id and c.class_key = n.class_key and c.from_id = n.from_id
  where c.how is distinct from n.how
  on conflict (asset_id, class_key, from_id) do update set how = excluded.how, via = excluded.via
$$;

create or replace function carried_by_asset() returns trigger language plpgsql as $$
begin
  if exists (select from claim where asset_id = new.id) or exists (select from finding_decision where asset_id = new.id)
    or exists (select from carried where asset_id = new.id and via = 'lineage') then
    perform settle_carried(array[new.id]);
  end if;
  return null;
end $$;

/*
 * What arrives at some assets, and at all that lies behind them: ring by ring from what is carried there itself and from what comes in from outside, each class by
 * the shortest way, of equal ones from the first column. It does not come to what carries the class itself, nor to what somebody refused it for, nor on from there.
 */
-- What is looked for is looked for by its place, however many there are: `offset 0` keeps a ring from being joined with all edges there are.
create function settle_travel(ids uuid[]) returns void language plpgsql set client_min_messages = warning set jit = off as $$
declare
  ring int := 0;
  found int := 0;
  furthest int;
begin
  create temp table if not exists travel_behind (id uuid primary key) on commit delete rows;
  create temp table if not exists travel_seed (id uuid, class_key text, from_id uuid, distance int, how text) on commit delete rows;
  create temp table if not exists travel_way (
    id uuid, class_key text, from_id uuid, distance int, how text, primary key (id, class_key)
  ) on commit delete rows;
  create index if not exists travel_way_distance on travel_way (distance);
  delete from travel_behind;
  delete from travel_seed;
  delete from travel_way;
  insert into travel_behind
  with recursive behind as (
    select a.id from asset a where a.id = any(ids)
    union
    select e.to_id
    from behind b
    cross join lateral (
      select x.to_id from lineage_edge x where x.from_id = b.id and x.kind <> 'masked' and not x.wrong offset 0
    ) e
  )
  select id from behind;
  insert into travel_way
  select b.id, k.class_key, b.id, 0, k.how
  from travel_behind b
  cross join lateral (
    select x.class_key, x.how from carried x where x.asset_id = b.id and x.via = 'itself' and x.how <> 'to-settle' offset 0
  ) k;
  insert into travel_seed
  select b.id, k.class_key, k.from_id, coalesce(k.distance, 0) + 1, k.how
  from travel_behind b
  cross join lateral (select x.from_id, x.kind from lineage_edge x where x.to_id = b.id and not x.wrong offset 0) e
  cross join lateral (
    select x.class_key, x.from_id, x.distance, x.how
    from carried x
    where x.asset_id = e.from_id and (x.via = 'lineage' or x.via = 'itself' and x.how <> 'to-settle')
    offset 0
  ) k
  left join data_class t on t.key = k.class_key
  where not exists (select from travel_behind o where o.id = e.from_id)
    and e.kind = any(coalesce(t.travels, array['copied', 'transformed']));
  furthest := coalesce((select max(distance) from travel_seed), 0);
  loop
    ring := ring + 1;
    insert into travel_way
    select distinct on (x.id, x.class_key) x.id, x.class_key, x.from_id, ring, x.how
    from (
      select s.id, s.class_key, s.from_id, s.how from travel_seed s where s.distance = ring
      union all
      select e.to_id, w.class_key, w.from_id, w.how
      from travel_way w
      cross join lateral (select x.to_id, x.kind from lineage_edge x where x.from_id = w.id and not x.wrong offset 0) e
      left join data_class t on t.key = w.class_key
      where w.distance = ring - 1 and e.kind = any(coalesce(t.travels, array['copied', 'transformed']))
    ) x
    where not exists (
      select from finding_decision d where d.asset_id = x.id and d.class_key = x.class_key and d.decision = 'dismissed')
    order by x.id, x.class_key, x.from_id
    on conflict do nothing;
    get diagnostics found = row_count;
    exit when found = 0 and ring >= furthest;
  end loop;
  delete from carried c
  using travel_behind b
  where c.asset_id = b.id and c.via = 'lineage'
    and not exists (
      select from travel_way w
      where w.id = c.asset_id and w.class_key = c.class_key and w.from_id = c.from_id and w.distance > 0);
  insert into carried (asset_id, class_key, from_id, via, how, distance)
  select w.id, w.class_key, w.from_id, 'lineage', w.how, w.distance
  from travel_way w
  join asset f on f.id = w.from_id
  left join lateral (
    select x.via, x.how, x.distance
    from carried x
    where x.asset_id = w.id and x.class_key = w.class_key and x.from_id = w.from_id
    offset 0
  ) c on true
  where w.distance > 0 and f.parent_id is distinct from w.id
    and (c.via is distinct from 'lineage' or c.how is distinct from w.how or c.distance is distinct from w.distance)
  on conflict (asset_id, class_key, from_id) do update set how = excluded.how, via = excluded.via, distance = excluded.distance;
  perform settle_carried(array(select m.asset_id from travel_moved m join travel_behind b on b.id = m.asset_id));
end $$;

/*
 * Whoever works out what travels waits for the others, and then sees what they wrote: two that change different steps of one way at once would each miss it.
 * It is done at the end of each transaction, or before, when its outcome is needed; levels are locked after it.
 */
create function settle_travel_due() returns void language plpgsql as $$
declare
  due uuid[];
begin
  if not exists (select from travel_due) then return; end if;
  perform pg_advisory_xact_lock(hashtextextended('travel', 0));
  with done as (delete from travel_due returning ids)
  select array_agg(distinct x.id) into due from done cross join unnest(done.ids) x(id);
  perform settle_travel(due);
end $$;
create function travel_at_end() returns trigger language plpgsql as $$
begin
  perform settle_travel_due();
  return null;
end $$;
create constraint trigger settle after insert on travel_due deferrable initially deferred for each row execute function travel_at_end();

create function travel_is_due(ids uuid[]) returns void language sql as $$
  insert into travel_due (ids) select ids where cardinality(ids) > 0
$$;

-- Edges: what they lead to, where something is carried on their other side, or came this way.
create function travel_by_new_edges() returns trigger language plpgsql as $$
begin
  perform travel_is_due(array(
    select distinct e.to_id
    from fresh e
    where exists (select from carried k where k.asset_id = e.from_id and k.via <> 'inside')));
  return null;
end $$;
create function travel_by_old_edges() returns trigger language plpgsql as $$
begin
  perform travel_is_due(array(
    select distinct k.asset_id from old_rows e join carried k on k.asset_id = e.to_id and k.via = 'lineage'));
  return null;
end $$;
create function travel_by_changed_edges() returns trigger language plpgsql as $$
begin
  perform travel_is_due(array(
    with changed as (
      select o.from_id as old_from, o.to_id as old_to, e.from_id, e.to_id
      from fresh e
      full join old_rows o on o.flow_id = e.flow_id and o.from_id = e.from_id and o.to_id = e.to_id
      where o.kind is distinct from e.kind or o.wrong is distinct from e.wrong
    )
    select c.to_id from changed c join carried k on k.asset_id = c.from_id and k.via <> 'inside'
    union
    select k.asset_id from changed c join carried k on k.asset_id = c.old_to and k.via = 'lineage'));
  return null;
end $$;
create trigger travel_come after insert on lineage_edge referencing new table as fresh for each statement execute function travel_by_new_edges();
create trigger travel_go after delete on lineage_edge referencing old table as old_rows for each statement execute function travel_by_old_edges();
create trigger travel_change after update on lineage_edge referencing new table as fresh old table as old_rows for each statement execute function travel_by_changed_edges();

/* Levels follow what came or went by lineage; and what holds such a column is found by it otherwise, though it carries the same. */
create function travel_has_moved(ids uuid[]) returns void language sql as $$
  insert into travel_moved select distinct x.id from unnest(ids) x(id) on conflict do nothing;
  insert into touched (asset_ids)
  select array_agg(distinct a.parent_id) from asset a where a.id = any(ids) and a.parent_id is not null having count(*) > 0
$$;

-- What is carried itself goes on from there, or does not; what came by lineage moves levels.
create function travel_by_carried() returns trigger language plpgsql as $$
begin
  perform travel_is_due(array(
    select distinct k.asset_id
    from fresh k
    where k.via = 'itself' and k.how <> 'to-settle'
      and (exists (select from lineage_edge e where e.from_id = k.asset_id)
        or exists (select from carried o where o.asset_id = k.asset_id and o.via = 'lineage'))));
  perform travel_has_moved(array(select k.asset_id from fresh k where k.via = 'lineage'));
  return null;
end $$;
create function travel_by_uncarried() returns trigger language plpgsql as $$
begin
  perform travel_is_due(array(
    select distinct a.id
    from old_rows k
    join asset a on a.id = k.asset_id
    where k.via = 'itself' and k.how <> 'to-settle'
      and (exists (select from lineage_edge e where e.from_id = a.id) or exists (select from lineage_edge e where e.to_id = a.id))));
  perform travel_has_moved(array(select a.id from old_rows k join asset a on a.id = k.asset_id where k.via = 'lineage'));
  -- Where it came from is removed: it may come from elsewhere, too.
  perform travel_is_due(array(
    select distinct a.id
    from old_rows k
    join asset a on a.id = k.asset_id
    where k.via = 'lineage' and not exists (select from asset f where f.id = k.from_id)));
  return null;
end $$;
create function travel_by_recarried() returns trigger language plpgsql as $$
begin
  perform travel_is_due(array(
    select distinct k.asset_id
    from fresh k
    join old_rows o on o.asset_id = k.asset_id and o.class_key = k.class_key and o.from_id = k.from_id
    where k.via = 'itself' and k.how <> o.how
      and (exists (select from lineage_edge e where e.from_id = k.asset_id) or exists (select from lineage_edge e where e.to_id = k.asset_id))));
  perform travel_has_moved(array(select k.asset_id from fresh k where k.via = 'lineage'));
  return null;
end $$;
create trigger travel_come after insert on carried referencing new table as fresh for each statement execute function travel_by_carried();
create trigger travel_go after delete on carried referencing old table as old_rows for each statement execute function travel_by_uncarried();
create trigger travel_change after update on carried referencing new table as fresh old table as old_rows for each statement execute function travel_by_recarried();

-- A class that is refused goes no further, also where no detector finds it.
create function travel_by_decision() returns trigger language plpgsql as $$
declare
  touched uuid := case when tg_op = 'DELETE' then old.asset_id else new.asset_id end;
begin
  if (tg_op <> 'INSERT' and old.decision = 'dismissed' or tg_op <> 'DELETE' and new.decision = 'dismissed')
    and exists (select from asset where id = touched) and exists (select from lineage_edge e where e.to_id = touched) then
    perform travel_is_due(array[touched]);
  end if;
  return null;
end $$;
create trigger travel after insert or update or delete on finding_decision for each row execute function travel_by_decision();

-- What carries a class on from now on, or no more.
create function travel_by_class() returns trigger language plpgsql as $$
begin
  perform travel_is_due(array(
    select distinct e.to_id
    from carried k
    join lineage_edge e on e.from_id = k.asset_id
    where k.via <> 'inside' and k.class_key = case when tg_op = 'DELETE' then old.key else new.key end));
  return null;
end $$;
create trigger travel_come after insert on data_class for each row
  when (new.travels <> array['copied', 'transformed']) execute function travel_by_class();
create trigger travel_go after delete on data_class for each row
  when (old.travels <> array['copied', 'transformed']) execute function travel_by_class();
create trigger travel_change after update of travels on data_class for each row
  when (old.travels is distinct from new.travels) execute function travel_by_class();

-- What policies rest on holds also where it came by lineage.
create or replace function hold_classes(ids uuid[]) returns void language sql as $$
  insert into class_hold (asset_id, class_key)
  select distinct c.asset_id, c.class_key
  from carried c
  where c.via <> 'inside' and (ids is null or c.asset_id = any(ids))
    and c.class_key in (
      select o.class_key
      from policy_object o
      join policy p on p.id = o.policy_id
      where o.class_key is not null and p.enabled and p.effect <> 'allow')
  on conflict do nothing
$$;

select travel_is_due(array(
  select distinct e.to_id from lineage_edge e join carried k on k.asset_id = e.from_id and k.via = 'itself'));
select settle_travel_due();
