-- Keys by which programs call the API as a person, as far as the key goes.
create table api_key (
  id uuid primary key default gen_random_uuid(),
  person_id uuid not null references person on delete cascade,
  name text not null,
  scopes text[] not null check (cardinality(scopes) > 0),
  -- In all domains in which its person has rights; else those of api_key_domain, and none where those are gone.
  everywhere boolean not null,
  per_minute integer not null check (per_minute > 0),
  key_hash bytea not null unique,
  made_at timestamptz not null default now(),
  ends_at timestamptz not null,
  used_at timestamptz,
  replaced_by uuid references api_key on delete set null
);
create index on api_key (person_id);
create index on api_key (replaced_by) where replaced_by is not null;

create table api_key_domain (
  key_id uuid not null references api_key on delete cascade,
  domain_id uuid not null references domain on delete cascade,
  primary key (key_id, domain_id)
);
create index on api_key_domain (domain_id);

-- Calls of keys by minute. What a crash loses of it is forgiven.
create unlogged table api_key_minute (
  key_id uuid not null,
  minute timestamptz not null,
  calls integer not null,
  primary key (key_id, minute)
);
create index on api_key_minute (minute);

-- What calls with an idempotency key were answered: sent again within a day they are answered the same, and done once.
create table idempotent_call (
  person_id uuid not null references person on delete cascade,
  key text not null,
  -- What was asked for: operation, parameters and body.
  print bytea not null,
  at timestamptz not null default now(),
  -- Null while it is under way, and where nobody knows how it ended.
  status integer,
  answer text,
  etag text,
  primary key (person_id, key)
);
create index on idempotent_call (at);

-- By which key a person changed something, where it was by one: its name, since keys end.
alter table journal add column by_key text;
