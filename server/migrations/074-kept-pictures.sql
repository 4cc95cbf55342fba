-- Pictures of lineage that somebody keeps, for themselves or for everybody who may see the asset: what is shown of it, folded, marked, and moved where.
create table kept_view (
  id uuid primary key default gen_random_uuid(),
  person_id uuid not null references person on delete cascade,
  asset_id uuid not null references asset on delete cascade,
  name text not null,
  shared boolean not null default false,
  shows jsonb not null,
  version int not null default 1,
  removed_at timestamptz,
  created_at timestamptz not null default now()
);
create unique index on kept_view (person_id, lower(name)) where removed_at is null;
create index on kept_view (asset_id);
