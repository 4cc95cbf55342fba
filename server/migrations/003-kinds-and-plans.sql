-- Kinds of source are checked against the contract, where each is described.
alter table source drop constraint source_kind_check;

-- A scan plan: what to read, how and when.
create table scan_plan (
  id uuid primary key default gen_random_uuid(),
  source_id uuid not null references source on delete cascade,
  name text not null,
  -- Which part of the source, as core/scanning says.
  scope jsonb not null,
  -- How: sampling or not, rows a column.
  options jsonb not null default '{}',
  -- When, as core/scanning says; null: only when somebody asks.
  schedule jsonb,
  enabled boolean not null default true,
  next_at timestamptz,
  version integer not null default 1,
  created_by uuid references person,
  created_at timestamptz not null default now(),
  unique (source_id, name)
);
create index on scan_plan (next_at) where enabled and next_at is not null;

alter table scan_run add column plan_id uuid references scan_plan on delete set null;
-- What the scope of the run left out.
alter table scan_run add column not_covered jsonb;
