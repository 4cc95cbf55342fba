-- Statements that are asked at a source, by what its own counters say and by what goes through the gateway: what they read, how often, and by whom.
create table asked_statement (
  id uuid primary key,
  source_id uuid not null references source on delete cascade,
  -- By which it is known again: the same for statements that differ in values, comments and spacing alone.
  print text not null,
  -- Without the values in it. Null: it names something that the catalog does not have, or is too long.
  text text,
  first_at timestamptz not null default now(),
  unique (source_id, print)
);

-- By a role of the source, as often as its counter says; or by a person through the gateway, as often as that was.
create table asked_by (
  statement_id uuid not null references asked_statement on delete cascade,
  role text,
  person_id uuid references person on delete cascade,
  calls float8 not null,
  -- When it was seen last that somebody had asked.
  moved_at timestamptz not null default now(),
  check (num_nonnulls(role, person_id) = 1)
);
create index on asked_by (statement_id);
create unique index on asked_by (statement_id, role) where role is not null;
create unique index on asked_by (statement_id, person_id) where person_id is not null;
create index on asked_by (person_id) where person_id is not null;

-- Tables and columns that a statement reads or writes, with what it does with each: of a table nothing is said but that it is written.
create table asked_for (
  asset_id uuid not null references asset on delete cascade,
  statement_id uuid not null references asked_statement on delete cascade,
  how text[] not null,
  primary key (asset_id, statement_id)
);
create index on asked_for (statement_id);
