-- Addresses that are told what changes, as whoever saved them last may see it.
create table webhook (
  id uuid primary key default gen_random_uuid(),
  name text not null,
  address text not null,
  -- Encrypted. The one before signs beside it until it ends.
  secret bytea not null,
  secret_before bytea,
  before_ends_at timestamptz,
  -- Empty: of all kinds.
  kinds text[] not null default '{}',
  -- Refers to nothing: where its domain is gone, nothing is sent rather than everything.
  domain_id uuid,
  filter text,
  enabled boolean not null default true,
  -- Why it was turned off by itself.
  off_why text,
  -- Null where who answered for it has left.
  person_id uuid references person on delete set null,
  version integer not null default 1
);
create unique index on webhook (lower(name));
create index on webhook (person_id);

-- How far each was told: beside it, since whoever sends holds the row meanwhile.
create table webhook_place (
  webhook_id uuid primary key references webhook on delete cascade,
  -- The last event (by its place) that was sent or set aside.
  after bigint not null,
  sent bigint not null default 0,
  sent_at timestamptz,
  -- Since when nothing is taken; meanwhile only the oldest of what was set aside is tried.
  unwell_since timestamptz
);

-- What an address did not take, by its place: what it says is read anew when it is sent again.
create table webhook_message (
  id uuid primary key default gen_random_uuid(),
  webhook_id uuid not null references webhook on delete cascade,
  seq bigint not null,
  type text not null,
  subject text not null,
  tries integer not null,
  last_at timestamptz,
  -- Null: not by itself any more.
  next_at timestamptz,
  problem text,
  unique (webhook_id, seq)
);
create index on webhook_message (webhook_id, subject, seq) where next_at is not null;
