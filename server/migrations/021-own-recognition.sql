-- Classes of the organisation, and what it says of those that ship with Idrel (own is false there).
create table data_class (
  key text primary key,
  own boolean not null,
  parent_key text,
  label text not null,
  theme text not null,
  level smallint not null check (level between 1 and 4),
  meaning text not null default '',
  legal_basis text not null default '',
  synonyms text[] not null default '{}',
  -- A class that ships with Idrel cannot be removed, but need not be used.
  retired_at timestamptz,
  version integer not null default 1,
  made_by uuid references person on delete set null,
  made_at timestamptz not null default now()
);
create unique index on data_class (lower(label)) where retired_at is null;

-- Detectors of the organisation: each version is kept as it was.
create table detector (
  id text primary key,
  class_key text not null,
  version integer not null default 1,
  made_at timestamptz not null default now()
);
create table detector_version (
  detector_id text not null references detector on delete cascade,
  version integer not null,
  spec jsonb not null,
  note text not null default '',
  made_by uuid references person on delete set null,
  made_at timestamptz not null default now(),
  primary key (detector_id, version)
);

-- Detectors that look nowhere in the organisation.
create table detector_off (
  detector_id text primary key,
  off_by uuid references person on delete set null,
  off_at timestamptz not null default now()
);

-- What a draft of a detector would find in live samples of the catalog.
create table detector_trial (
  id uuid primary key default gen_random_uuid(),
  detector_id text,
  class_key text not null,
  spec jsonb not null,
  asked_by uuid not null references person on delete cascade,
  asked_at timestamptz not null default now(),
  beat_at timestamptz not null default now(),
  ended_at timestamptz,
  cancelled boolean not null default false,
  done integer not null default 0,
  total integer,
  columns integer not null default 0,
  gains jsonb not null default '[]',
  loses jsonb not null default '[]',
  keeps integer not null default 0,
  problems jsonb not null default '[]'
);
create index on detector_trial (asked_by, asked_at desc);

-- Classes and detectors have keys that people read.
alter table journal alter column subject_id type text using subject_id::text;
