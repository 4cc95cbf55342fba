-- Since when an edge stands; and those that stand no more, which are ended and not erased. A thousandth of a second is what an address can name.
alter table lineage_edge add column since timestamptz(3) not null default now();
alter table lineage_influence add column since timestamptz(3) not null default now();
alter table lineage_edge disable trigger user;
alter table lineage_influence disable trigger user;
update lineage_edge e set since = l.first_seen from flow l where l.id = e.flow_id;
update lineage_influence i set since = l.first_seen from flow l where l.id = i.flow_id;
alter table lineage_edge enable trigger user;
alter table lineage_influence enable trigger user;

create table ended_edge (
  id bigint generated always as identity primary key,
  from_id uuid not null references asset on delete cascade,
  to_id uuid not null references asset on delete cascade,
  kind text not null,
  line int,
  wrong boolean not null default false,
  origin text not null,
  -- The flow that the value took, where that is an asset.
  flow_id uuid references asset on delete set null,
  since timestamptz(3) not null,
  until timestamptz(3) not null,
  check (since < until)
);
create index on ended_edge (from_id, until);
create index on ended_edge (to_id, until);
create index on ended_edge (flow_id) where flow_id is not null;

/* What goes with its flow is kept before, while it can still be told which flow it was; what goes with an asset goes wholly. */
create function end_edges_of_flow() returns trigger language plpgsql as $$
begin
  insert into ended_edge (from_id, to_id, kind, line, wrong, origin, flow_id, since, until)
  select f.id, t.id, e.kind, e.line, e.wrong, old.origin, a.id, e.since, now()
  from (
    select from_id, to_id, kind, line, wrong, since from lineage_edge where flow_id = old.id
    union all
    select from_id, to_id, kind, null, false, since from lineage_influence where flow_id = old.id
  ) e
  join asset f on f.id = e.from_id
  join asset t on t.id = e.to_id
  left join asset a on a.id = old.asset_id
  where e.since < now()::timestamptz(3);
  return old;
end $$;
create trigger edges_end before delete on flow for each row execute function end_edges_of_flow();

/* What only decides rows has no line, and nobody says that it is wrong. */
create function end_edges() returns trigger language plpgsql as $$
begin
  insert into ended_edge (from_id, to_id, kind, line, wrong, origin, flow_id, since, until)
  select f.id, t.id, e.kind, (to_jsonb(e) ->> 'line')::int, coalesce((to_jsonb(e) ->> 'wrong')::boolean, false), l.origin, l.asset_id, e.since, now()
  from old_rows e
  join flow l on l.id = e.flow_id
  join asset f on f.id = e.from_id
  join asset t on t.id = e.to_id
  where e.since < now()::timestamptz(3);
  return null;
end $$;
create trigger edges_end after delete on lineage_edge referencing old table as old_rows for each statement execute function end_edges();
create trigger influences_end after delete on lineage_influence referencing old table as old_rows for each statement execute function end_edges();

/* An edge that does something else to the value from now on is another one. */
create function end_edge_as_it_was() returns trigger language plpgsql as $$
begin
  insert into ended_edge (from_id, to_id, kind, line, wrong, origin, flow_id, since, until)
  values (
    old.from_id, old.to_id, old.kind, old.line, old.wrong,
    (select origin from flow where id = old.flow_id), (select asset_id from flow where id = old.flow_id), old.since, now()
  );
  new.since := now();
  return new;
end $$;
create trigger edges_end_as_they_were before update of kind on lineage_edge for each row
  when (old.kind <> new.kind and old.since < now()::timestamptz(3)) execute function end_edge_as_it_was();

/* Every edge that stands or stood, and what only decides rows. */
create view edge_span as
select e.from_id, e.to_id, e.kind, e.line, e.wrong, l.origin, l.asset_id as flow_id, e.since, null::timestamptz(3) as until
from lineage_edge e
join flow l on l.id = e.flow_id
union all
select i.from_id, i.to_id, i.kind, null, false, l.origin, l.asset_id, i.since, null
from lineage_influence i
join flow l on l.id = i.flow_id
union all
select from_id, to_id, kind, line, wrong, origin, flow_id, since, until from ended_edge;
