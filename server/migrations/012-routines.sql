-- A saved search with an action, and each time it was run: what it changed, asset by asset, so that a run can be taken back.
create table routine (
  id uuid primary key default gen_random_uuid(),
  name text not null,
  filter text not null,
  action jsonb not null,
  made_by uuid references person on delete set null,
  version int not null default 1,
  removed_at timestamptz,
  created_at timestamptz not null default now()
);
create unique index on routine (lower(name)) where removed_at is null;
create table routine_run (
  id uuid primary key default gen_random_uuid(),
  routine_id uuid not null references routine on delete cascade,
  person_id uuid references person on delete set null,
  at timestamptz not null default now(),
  filter text not null,
  action jsonb not null,
  found int not null,
  changed int not null,
  same int not null,
  refused int not null,
  undone_at timestamptz,
  undone_by uuid references person on delete set null,
  restored int
);
create index on routine_run (routine_id, at desc);
-- What stood there before: null where something was added.
create table routine_change (
  run_id uuid not null references routine_run on delete cascade,
  asset_id uuid not null references asset on delete cascade,
  before text,
  primary key (run_id, asset_id)
);
create index on routine_change (asset_id);
