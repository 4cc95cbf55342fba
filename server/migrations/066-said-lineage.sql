-- What people say of lineage: edges that no source tells of, and found ones that are wrong.
create table said_edge (
  id uuid primary key default gen_random_uuid(),
  from_id uuid not null references asset on delete cascade,
  to_id uuid not null references asset on delete cascade,
  kind text not null check (kind in ('copied', 'transformed', 'aggregated', 'masked')),
  -- The flow that the value takes, where that is an asset.
  flow_id uuid references asset on delete set null,
  note text not null default '',
  said_by uuid references person,
  said_at timestamptz not null default now(),
  version int not null default 1,
  unique (from_id, to_id),
  check (from_id <> to_id)
);
create index on said_edge (to_id);
create index on said_edge (flow_id) where flow_id is not null;

/* What is said is a flow of its own, with one edge: who asks of lineage finds it where all the others are. */
create function follow_said() returns trigger language plpgsql as $$
begin
  if tg_op <> 'INSERT' then delete from flow where id = old.id; end if;
  if tg_op <> 'DELETE' then
    insert into flow (id, source_id, asset_id, kind, statement, key, origin)
    select new.id, t.source_id, new.flow_id, 'said', '', 'said:' || new.id, 'by hand' from asset t where t.id = new.to_id;
    insert into lineage_edge (flow_id, from_id, to_id, kind) values (new.id, new.from_id, new.to_id, new.kind);
  end if;
  return null;
end $$;
create trigger said_edges_follow after insert or update or delete on said_edge for each row execute function follow_said();

-- A found edge that a person says is wrong. It stays so however often it is found.
create table wrong_edge (
  from_id uuid not null references asset on delete cascade,
  to_id uuid not null references asset on delete cascade,
  reason text not null,
  said_by uuid references person,
  said_at timestamptz not null default now(),
  primary key (from_id, to_id)
);
create index on wrong_edge (to_id);

-- Struck edges are followed by nobody but policies and levels: what somebody says does not open what another one's policy protects.
alter table lineage_edge add column wrong boolean not null default false;

create or replace function feeds_of(flows uuid[]) returns table (flow_id uuid, from_id uuid, to_id uuid) language sql stable as $$
  select e.flow_id, seen_in(f.kind, f.id, f.parent_id), seen_in(t.kind, t.id, t.parent_id)
  from lineage_edge e
  join asset f on f.id = e.from_id
  join asset t on t.id = e.to_id
  where e.flow_id = any(flows) and not e.wrong and seen_in(f.kind, f.id, f.parent_id) <> seen_in(t.kind, t.id, t.parent_id)
  union
  select i.flow_id, seen_in(c.kind, c.id, c.parent_id), i.to_id
  from lineage_influence i
  join asset c on c.id = i.from_id
  where i.flow_id = any(flows) and i.kind <> 'unused' and seen_in(c.kind, c.id, c.parent_id) <> i.to_id
$$;
