-- Runs of flows, as their source tells of them or events do.
create table flow_run (
  asset_id uuid not null references asset on delete cascade,
  run_id text not null,
  state text not null check (state in ('running', 'done', 'failed', 'cancelled')),
  began timestamptz,
  ended timestamptz,
  rows bigint,
  message text,
  checks jsonb not null default '[]',
  at timestamptz generated always as (coalesce(ended, began)) stored,
  primary key (asset_id, run_id)
);
create index on flow_run (asset_id, at desc);

-- The key by which pipelines send events to one source, and can do nothing else.
create table event_key (
  source_id uuid primary key references source on delete cascade,
  key_hash bytea not null unique,
  made_at timestamptz not null default now(),
  made_by uuid references person,
  used_at timestamptz
);

-- Events as they came, until they are put together; the newest of a job stay for as long as they say something of its runs.
create table run_event (
  id bigint generated always as identity primary key,
  source_id uuid not null references source on delete cascade,
  digest bytea not null,
  namespace text not null,
  job text not null,
  event jsonb not null,
  received_at timestamptz not null default now(),
  settled_at timestamptz,
  problem text,
  unique (source_id, digest)
);
create index on run_event (source_id, id) where settled_at is null;
create index on run_event (source_id, namespace, job, id);

-- What the events of a job come to: what is written into the catalog is made from these.
create table event_job (
  source_id uuid not null references source on delete cascade,
  namespace text not null,
  name text not null,
  -- Of all that is written of it beside its runs.
  print text not null,
  job jsonb not null,
  primary key (source_id, namespace, name)
);
