-- Combinations of classes that raise what holds their columns to a level.
create table level_rule (
  id uuid primary key default gen_random_uuid(),
  name text not null,
  class_keys text[] not null check (cardinality(class_keys) > 0),
  level smallint not null check (level between 1 and 4),
  -- Kinds of assets that it raises; null: all that have columns.
  kinds text[],
  version integer not null default 1,
  made_by uuid references person on delete set null,
  made_at timestamptz not null default now()
);
create unique index on level_rule (lower(name));
