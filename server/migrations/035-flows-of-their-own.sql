-- A flow is a thing of its own: known by its key within its source, told from somewhere, from many assets to many. What it makes is one asset, several, or
-- (of a load that only moves values) none of its own. Edges end at assets of any kind; which rows are decided by a column is told with the table they are in.
alter table flow add column key text;
alter table flow add column origin text not null default 'view'
  check (origin in ('view', 'link', 'script', 'run event', 'report', 'pushed', 'by hand'));
alter table flow add column first_seen timestamptz not null default now();
alter table flow add column last_seen timestamptz not null default now();
update flow f set key = a.key from asset a where a.id = f.asset_id;
update flow set origin = 'link' where kind = 'foreign table';
update flow f set origin = case s.kind when 'reports' then 'report' when 'orchestrator' then 'run event' else 'pushed' end
  from source s where s.id = f.source_id and s.kind in ('reports', 'orchestrator', 'pushed');
alter table flow alter column key set default gen_random_uuid()::text;
alter table flow alter column key set not null;
alter table flow alter column asset_id drop not null;
alter table flow drop constraint flow_asset_id_key;
create unique index on flow (source_id, key);
create index on flow (asset_id);

alter table lineage_influence add column to_id uuid references asset on delete cascade;
update lineage_influence i set to_id = f.asset_id from flow f where f.id = i.flow_id;
alter table lineage_influence alter column to_id set not null;
alter table lineage_influence drop constraint lineage_influence_pkey;
alter table lineage_influence add primary key (flow_id, from_id, to_id, kind);
create index on lineage_influence (to_id);

-- The asset that stands for another in pictures of tables: a column is seen in its table, anything else as itself.
create function seen_in(kind text, id uuid, parent uuid) returns uuid language sql immutable as $$
  select case when kind = 'column' then parent else id end
$$;

create or replace function feeds_of(flows uuid[]) returns table (flow_id uuid, from_id uuid, to_id uuid) language sql stable as $$
  select e.flow_id, seen_in(f.kind, f.id, f.parent_id), seen_in(t.kind, t.id, t.parent_id)
  from lineage_edge e
  join asset f on f.id = e.from_id
  join asset t on t.id = e.to_id
  where e.flow_id = any(flows) and seen_in(f.kind, f.id, f.parent_id) <> seen_in(t.kind, t.id, t.parent_id)
  union
  select i.flow_id, seen_in(c.kind, c.id, c.parent_id), i.to_id
  from lineage_influence i
  join asset c on c.id = i.from_id
  where i.flow_id = any(flows) and i.kind <> 'unused' and seen_in(c.kind, c.id, c.parent_id) <> i.to_id
$$;
