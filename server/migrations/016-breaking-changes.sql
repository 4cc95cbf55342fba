-- Changes at a source that can break what is made from it, with what lay downstream when they were found.
create table breaking_change (
  run_id uuid not null references scan_run on delete cascade,
  asset_id uuid not null references asset on delete cascade,
  what text not null,
  reached_id uuid not null references asset on delete cascade,
  distance int not null,
  primary key (run_id, asset_id, reached_id)
);
create index on breaking_change (reached_id);
create index on breaking_change (asset_id);
-- Who has taken note of them.
create table breaking_seen (
  run_id uuid not null references scan_run on delete cascade,
  person_id uuid not null references person on delete cascade,
  at timestamptz not null default now(),
  primary key (run_id, person_id)
);
