-- Keys by which people read through the gateway with programs of their own; each is shown once, when it is made.
create table client_key (
  id uuid primary key default gen_random_uuid(),
  person_id uuid not null references person on delete cascade,
  name text not null,
  key_hash bytea not null unique,
  made_at timestamptz not null default now(),
  ends_at timestamptz not null,
  used_at timestamptz
);
create index on client_key (person_id);
