-- Who may read what by the rights of a source itself, as its last scan found it; since when is when a scan first found it.
create table native_role (
  source_id uuid not null references source on delete cascade,
  name text not null,
  login boolean not null,
  superuser boolean not null,
  bypasses_rows boolean not null,
  scans boolean not null,
  member_of text[] not null,
  found_at timestamptz not null default now(),
  primary key (source_id, name)
);

-- When rights of a source were last read, and a digest of those on things in it: equal, and they need not be written again.
create table native_read (
  source_id uuid primary key references source on delete cascade,
  read_at timestamptz not null,
  digest text not null
);

-- On a database: to come in; on a schema: to reach what is in it; on a relation or a column: to read it. An empty holder is everybody who can come in.
create table native_grant (
  asset_id uuid not null references asset on delete cascade,
  holder text not null,
  how text not null check (how in ('grant', 'owner')),
  given_by text not null,
  passes_on boolean not null,
  found_at timestamptz not null default now(),
  primary key (asset_id, holder, how, given_by)
);
create index on native_grant (holder);

-- What tables open that somebody makes later: in one schema, or in all.
create table native_later (
  source_id uuid not null references source on delete cascade,
  maker text not null,
  schema_id uuid references asset on delete cascade,
  holder text not null,
  found_at timestamptz not null default now(),
  unique nulls not distinct (source_id, maker, schema_id, holder)
);

-- Tables whose own row policies limit what is read of them.
create table native_own_rows (
  asset_id uuid primary key references asset on delete cascade,
  forced boolean not null
);

-- Who comes in as a role: people, groups, or a program that is nobody's. What people said of a role outlives every scan.
create table native_match (
  source_id uuid not null references source on delete cascade,
  role text not null,
  program boolean not null default false,
  version integer not null default 1,
  said_by uuid references person on delete set null,
  said_at timestamptz not null default now(),
  primary key (source_id, role)
);
create table native_match_party (
  source_id uuid not null,
  role text not null,
  person_id uuid references person on delete cascade,
  group_id uuid references person_group on delete cascade,
  check (num_nonnulls(person_id, group_id) = 1),
  foreign key (source_id, role) references native_match on delete cascade,
  unique nulls not distinct (source_id, role, person_id, group_id)
);
create index on native_match_party (person_id) where person_id is not null;
create index on native_match_party (group_id) where group_id is not null;

-- A right that gives more than the policies do, and that somebody accepted for a reason.
create table native_accepted (
  id uuid primary key default gen_random_uuid(),
  source_id uuid not null references source on delete cascade,
  holder text not null,
  how text not null,
  -- The schema in which it stands; null where it is a right over everything.
  schema text,
  through text,
  -- What it opened then: what it opens beyond is told all the same.
  columns uuid[] not null,
  reason text not null,
  until timestamptz,
  said_by uuid references person on delete set null,
  said_at timestamptz not null default now(),
  unique nulls not distinct (source_id, holder, how, schema, through)
);
