-- Searches of the catalog that somebody keeps: for themselves, or for everybody; and which of them stand in a person's rail.
create table saved_search (
  id uuid primary key default gen_random_uuid(),
  person_id uuid not null references person on delete cascade,
  name text not null,
  filter text not null,
  shared boolean not null default false,
  version int not null default 1,
  removed_at timestamptz,
  created_at timestamptz not null default now()
);
create unique index on saved_search (person_id, lower(name)) where removed_at is null;
create table pinned_search (
  person_id uuid not null references person on delete cascade,
  search_id uuid not null references saved_search on delete cascade,
  primary key (person_id, search_id)
);
create index on pinned_search (search_id);
