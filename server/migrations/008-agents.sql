-- Agents read sources from where they run. An agent belongs to a domain: it may read sources of that domain and of those below, when
-- they are left to its group.
create table agent (
  id uuid primary key default gen_random_uuid(),
  name text not null unique,
  group_name text not null,
  domain_id uuid not null references domain,
  key_hash bytea not null unique,
  limits jsonb not null default '{}',
  version text,
  host text,
  load jsonb,
  last_contact timestamptz,
  created_by uuid references person,
  created_at timestamptz not null default now()
);
alter table source add column agent_group text;
alter table scan_run add column agent_id uuid references agent on delete set null;

-- What an agent has sent of a run, until the run is written as a whole.
create table agent_batch (
  run_id uuid not null references scan_run on delete cascade,
  number integer not null,
  content bytea not null,
  primary key (run_id, number)
);
