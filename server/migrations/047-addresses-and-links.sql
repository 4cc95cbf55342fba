-- What an asset was called, and in what it lay, before it was renamed or moved: an address of then leads to it still.
create table former_name (
  asset_id uuid not null references asset on delete cascade,
  parent_id uuid references asset on delete cascade,
  source_id uuid not null references source on delete cascade,
  name text not null,
  until timestamptz not null default now(),
  unique nulls not distinct (asset_id, parent_id, name)
);
create index on former_name (source_id, parent_id, name);
create index on former_name (parent_id);
create function keep_former_name() returns trigger language plpgsql as $$
begin
  insert into former_name (asset_id, parent_id, source_id, name)
  values (old.id, old.parent_id, old.source_id, old.name)
  on conflict (asset_id, parent_id, name) do update set until = excluded.until;
  return null;
end $$;
create trigger asset_renamed after update of name, parent_id on asset
  for each row when (old.name is distinct from new.name or old.parent_id is distinct from new.parent_id)
  execute function keep_former_name();

create table former_source_name (
  source_id uuid not null references source on delete cascade,
  name text not null,
  until timestamptz not null default now(),
  primary key (source_id, name)
);
create index on former_source_name (name);
create function keep_former_source_name() returns trigger language plpgsql as $$
begin
  insert into former_source_name (source_id, name) values (old.id, old.name)
  on conflict (source_id, name) do update set until = excluded.until;
  return null;
end $$;
create trigger source_renamed after update of name on source
  for each row when (old.name is distinct from new.name) execute function keep_former_source_name();

-- What an address of an asset shows where it is pasted, to whoever reads there without being signed in: with it, title, standing, owner and meaning.
alter table domain add column shown_outside boolean not null default false;

-- Where more is said of an asset: documents, tickets, queries, repositories.
create table asset_link (
  id uuid primary key,
  asset_id uuid not null references asset on delete cascade,
  kind text not null,
  url text not null,
  title text not null,
  made_by uuid references person on delete set null,
  created_at timestamptz not null default now(),
  removed_at timestamptz,
  version int not null default 1
);
create index on asset_link (asset_id);
