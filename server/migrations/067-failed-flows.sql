-- Flows whose last run failed are looked for among all flows each time somebody looks at their worklist.
create index asset_failed_flow on asset (id) where kind = 'flow' and stats ->> 'lastState' = 'failed';

-- That a person noted that a run failed.
create table failed_seen (
  asset_id uuid not null references asset on delete cascade,
  run_id text not null,
  person_id uuid not null references person on delete cascade,
  at timestamptz not null default now(),
  primary key (asset_id, run_id, person_id)
);
