-- What a person asks of a source that an agent reads, while they wait for it: a test of the connection, or what is there.
create table agent_ask (
  id uuid primary key default gen_random_uuid(),
  source_id uuid not null references source on delete cascade,
  kind text not null check (kind in ('test', 'outline')),
  asked_at timestamptz not null default now(),
  agent_id uuid references agent on delete cascade,
  answer jsonb
);
create index on agent_ask (asked_at);
