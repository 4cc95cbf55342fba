-- Who was told that something they use is to be retired, and what they were told; told again when that is another thing.
create table retirement_told (
  asset_id uuid not null references asset on delete cascade,
  person_id uuid not null references person on delete cascade,
  on_day date,
  replacement_id uuid references asset on delete set null,
  at timestamptz not null default now(),
  primary key (asset_id, person_id)
);
create index on retirement_told (person_id);
