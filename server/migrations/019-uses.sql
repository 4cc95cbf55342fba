-- How often people and programs asked for an asset at its source, by what the source's own counters said at the last scan.
create table asset_use (
  asset_id uuid primary key references asset on delete cascade,
  run_id uuid references scan_run on delete set null,
  calls float8 not null,
  roles int not null,
  statements int not null,
  -- The last scan that found its counter moved.
  moved_at timestamptz not null default now(),
  seen_at timestamptz not null default now()
);
create index on asset_use (run_id);
