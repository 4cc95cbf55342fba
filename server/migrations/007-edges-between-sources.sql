-- Where a source is, as edges between sources name it: made from its kind and its address, the same whoever says it.
create function place_of(kind text, address jsonb) returns text language sql immutable strict as $$
  select case
    when kind in ('postgresql', 'mariadb') then kind || '://' || case when lower(address ->> 'host') in ('localhost', '::1') then '127.0.0.1' else lower(address ->> 'host') end
      || ':' || (address ->> 'port') || '/' || (address ->> 'database')
    when kind in ('sqlite', 'folder') then 'file://' || (address ->> 'path')
    when kind = 'objects' then 's3://' || (address ->> 'bucket')
    else address ->> 'url' end
$$;
alter table source add column place text generated always as (place_of(kind, address)) stored;
create index source_place on source (place);

-- Edges of which an end lies in another source. They stay while the flow stays: when the other source is scanned later, or registered
-- anew, they become edges of lineage then. An end that is known has an id; one elsewhere is a place, a path below its top, and a column.
create table remote_edge (
  id bigint generated always as identity primary key,
  flow_id uuid not null references flow on delete cascade,
  kind text not null,
  from_id uuid references asset on delete cascade, from_place text, from_path text, from_column text,
  to_id uuid references asset on delete cascade, to_place text, to_path text, to_column text,
  check ((from_id is null) = (from_place is not null)),
  check ((to_id is null) = (to_place is not null))
);
create index on remote_edge (flow_id);
create index on remote_edge (from_place);
create index on remote_edge (to_place);
create index on remote_edge (from_id) where from_id is not null;
create index on remote_edge (to_id) where to_id is not null;
