-- Tickets of a tracker outside that are about assets. They are opened by a job: until the tracker has one, it has no key.
create table ticket (
  id uuid primary key default gen_random_uuid(),
  asset_id uuid not null references asset on delete cascade,
  title text not null,
  text text not null,
  state text not null default 'being opened' check (state in ('being opened', 'open', 'closed', 'not opened')),
  key text unique,
  url text,
  opened_by uuid references person on delete set null,
  -- The routine that opened it for them.
  routine_id uuid references routine on delete set null,
  opened_at timestamptz not null default now(),
  closed_at timestamptz,
  problem text,
  check ((key is null) = (state in ('being opened', 'not opened')))
);
alter table routine_run add column tickets integer not null default 0;
create index on ticket (asset_id);
create index on ticket (routine_id) where routine_id is not null;
