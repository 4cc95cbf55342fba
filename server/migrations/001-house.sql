-- Extensions are trusted ones: no superuser is needed for them.
create extension if not exists pg_trgm;

create table person (
  id uuid primary key default gen_random_uuid(),
  name text not null unique,
  email text not null unique,
  job text not null default '',
  password_hash text,
  demo boolean not null default false,
  created_at timestamptz not null default now()
);

create table person_group (
  id uuid primary key default gen_random_uuid(),
  name text not null unique
);
create table group_member (
  group_id uuid not null references person_group on delete cascade,
  person_id uuid not null references person on delete cascade,
  primary key (group_id, person_id)
);
create index on group_member (person_id);

-- Server-side sessions: the cookie holds a random token, the table its digest.
create table session (
  token_hash bytea primary key,
  person_id uuid not null references person on delete cascade,
  csrf text not null,
  created_at timestamptz not null default now(),
  expires_at timestamptz not null
);

create table domain (
  id uuid primary key default gen_random_uuid(),
  parent_id uuid references domain on delete restrict,
  name text not null unique
);

-- A role in a domain holds in all domains below it. Without a domain it holds everywhere.
create table role_grant (
  id uuid primary key default gen_random_uuid(),
  person_id uuid not null references person on delete cascade,
  domain_id uuid references domain on delete cascade,
  role text not null check (role in ('reader', 'editor', 'steward', 'source administrator', 'policy administrator', 'administrator')),
  unique nulls not distinct (person_id, domain_id, role)
);

create table journal (
  id bigint generated always as identity primary key,
  at timestamptz not null default now(),
  person_id uuid references person,
  action text not null,
  subject_kind text not null,
  subject_id uuid not null,
  subject_name text not null,
  domain_id uuid references domain,
  before jsonb,
  after jsonb
);
create index on journal (subject_id, id desc);

create table credential (
  id uuid primary key default gen_random_uuid(),
  name text not null unique,
  username text not null default '',
  -- AES-256-GCM: nonce, tag and text together; the key is not in the database.
  secret bytea not null,
  created_by uuid references person,
  created_at timestamptz not null default now()
);

create table source (
  id uuid primary key default gen_random_uuid(),
  name text not null unique,
  kind text not null check (kind in ('postgresql', 'folder')),
  address jsonb not null,
  domain_id uuid not null references domain,
  credential_id uuid references credential,
  description text not null default '',
  version integer not null default 1,
  created_by uuid references person,
  created_at timestamptz not null default now()
);

create table scan_run (
  id uuid primary key default gen_random_uuid(),
  source_id uuid not null references source on delete cascade,
  state text not null default 'waiting' check (state in ('waiting', 'structure', 'sampling', 'recognition', 'lineage', 'done', 'partly done', 'failed', 'cancelled')),
  options jsonb not null default '{}',
  counts jsonb not null default '{}',
  comparison jsonb,
  problem jsonb,
  cancel_asked boolean not null default false,
  asked_by uuid references person,
  asked_at timestamptz not null default now(),
  started_at timestamptz,
  beat_at timestamptz,
  ended_at timestamptz
);
create index on scan_run (source_id, asked_at desc);
-- Two runs of one source never work at once.
create unique index scan_run_one_at_a_time on scan_run (source_id) where state in ('waiting', 'structure', 'sampling', 'recognition', 'lineage');

create table scan_log (
  id bigint generated always as identity primary key,
  run_id uuid not null references scan_run on delete cascade,
  at timestamptz not null default now(),
  level text not null check (level in ('info', 'caution', 'problem')),
  text text not null
);
create index on scan_log (run_id, id);

create table asset (
  id uuid primary key default gen_random_uuid(),
  source_id uuid not null references source on delete cascade,
  parent_id uuid references asset on delete cascade,
  domain_id uuid not null references domain,
  kind text not null,
  name text not null,
  -- Names from the source's top to this asset, joined by a character that no name contains: the identity within the source.
  key text not null,
  depth smallint not null,
  position integer not null default 0,
  -- What the scan read. What people say stands in columns of its own.
  native jsonb not null default '{}',
  -- Facts that change all the time (estimated rows, size): read by each scan, and no change in a comparison.
  stats jsonb not null default '{}',
  native_comment text,
  description text,
  standing text not null default 'unreviewed' check (standing in ('unreviewed', 'reviewed', 'trusted', 'retiring')),
  level_found smallint,
  level_set smallint,
  level_reason text,
  level smallint generated always as (coalesce(level_set, level_found)) stored,
  words tsvector not null default '',
  version integer not null default 1,
  first_seen timestamptz not null default now(),
  last_seen timestamptz not null default now(),
  gone_at timestamptz,
  unique (source_id, key)
);
create index on asset (parent_id, position);
-- A scan writes many rows at once: they wait in a list of up to 32 MB before they are sorted into the index.
create index on asset using gin (words) with (fastupdate = on, gin_pending_list_limit = 32768);
create index on asset (domain_id);

create table asset_person (
  asset_id uuid not null references asset on delete cascade,
  person_id uuid not null references person on delete cascade,
  role text not null check (role in ('owner', 'steward', 'custodian')),
  primary key (asset_id, person_id, role)
);
create index on asset_person (person_id);

create table term (
  id uuid primary key default gen_random_uuid(),
  name text not null unique,
  other_names text[] not null default '{}',
  definition text not null default '',
  broader_id uuid references term on delete set null,
  status text not null default 'draft' check (status in ('draft', 'agreed', 'retired')),
  owner_id uuid references person,
  version integer not null default 1,
  created_at timestamptz not null default now()
);
create table asset_term (
  asset_id uuid not null references asset on delete cascade,
  term_id uuid not null references term on delete cascade,
  primary key (asset_id, term_id)
);
create index on asset_term (term_id);

-- What a detector claims; replaced by each run. What people decided of it stands beside, and stays.
create table finding (
  asset_id uuid not null references asset on delete cascade,
  class_key text not null,
  detector text not null,
  detector_version text not null,
  share double precision not null,
  matched integer not null,
  sampled integer not null,
  distinct_values integer not null,
  confidence double precision not null,
  state text not null check (state in ('certain', 'to-settle')),
  evidence jsonb not null,
  run_id uuid references scan_run on delete set null,
  found_at timestamptz not null default now(),
  primary key (asset_id, class_key)
);
create table finding_decision (
  asset_id uuid not null references asset on delete cascade,
  class_key text not null,
  decision text not null check (decision in ('confirmed', 'dismissed')),
  reason text not null default '',
  decided_by uuid not null references person,
  decided_at timestamptz not null default now(),
  primary key (asset_id, class_key)
);

-- A flow: a process that derives data; here the query of a view. It is read again when its text changes.
create table flow (
  id uuid primary key default gen_random_uuid(),
  source_id uuid not null references source on delete cascade,
  asset_id uuid not null unique references asset on delete cascade,
  kind text not null,
  statement text not null,
  problems jsonb not null default '[]'
);
create table lineage_edge (
  flow_id uuid not null references flow on delete cascade,
  from_id uuid not null references asset on delete cascade,
  to_id uuid not null references asset on delete cascade,
  kind text not null,
  primary key (flow_id, from_id, to_id)
);
create index on lineage_edge (from_id);
create index on lineage_edge (to_id);
create table lineage_influence (
  flow_id uuid not null references flow on delete cascade,
  from_id uuid not null references asset on delete cascade,
  kind text not null,
  primary key (flow_id, from_id, kind)
);
create index on lineage_influence (from_id);

create table policy (
  id uuid primary key default gen_random_uuid(),
  name text not null unique,
  effect text not null check (effect in ('allow', 'protect', 'deny')),
  everyone boolean not null default false,
  group_ids uuid[] not null default '{}',
  person_ids uuid[] not null default '{}',
  except_group_ids uuid[] not null default '{}',
  asset_ids uuid[] not null default '{}',
  class_keys text[] not null default '{}',
  columns text[],
  mask text,
  rows jsonb,
  domain_id uuid references domain,
  enabled boolean not null default true,
  version integer not null default 1,
  created_by uuid references person,
  created_at timestamptz not null default now()
);

-- What went through the gateway, without any value.
create table gateway_query (
  id bigint generated always as identity primary key,
  at timestamptz not null default now(),
  asked_by uuid not null references person,
  as_person uuid not null references person,
  source_id uuid not null references source on delete cascade,
  statement text not null,
  outcome text not null,
  rows integer,
  milliseconds integer
);

-- One row: settings that must be the same on every server.
create table setting (key text primary key, value jsonb not null);
