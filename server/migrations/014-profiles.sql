-- What the values of a column were like when they were last looked at; one row per column, replaced by each run that samples it.
create table column_profile (
  asset_id uuid primary key references asset on delete cascade,
  run_id uuid references scan_run on delete set null,
  at timestamptz not null default now(),
  facts jsonb not null
);
create index on column_profile (run_id);
