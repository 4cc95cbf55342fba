-- What people want to be told of: an asset (with what lies below it), what a search finds, a domain, a term.
create table subscription (
  id uuid primary key default gen_random_uuid(),
  person_id uuid not null references person on delete cascade,
  what text not null check (what in ('asset', 'search', 'domain', 'term')),
  asset_id uuid references asset on delete cascade,
  domain_id uuid references domain on delete cascade,
  term_id uuid references term on delete cascade,
  filter text,
  below boolean not null default true,
  pace text not null check (pace in ('at once', 'daily', 'weekly')),
  mail boolean not null,
  chat boolean not null,
  -- Events up to this place are none of it.
  since bigint not null,
  version integer not null default 1,
  check (
    (asset_id is not null)::int + (domain_id is not null)::int + (term_id is not null)::int + (filter is not null)::int = 1
    and (what = 'asset') = (asset_id is not null) and (what = 'domain') = (domain_id is not null)
    and (what = 'term') = (term_id is not null) and (what = 'search') = (filter is not null)
  )
);
create index on subscription (person_id);
create index on subscription (asset_id) where asset_id is not null;
create index on subscription (domain_id) where domain_id is not null;
create index on subscription (term_id) where term_id is not null;

-- What came of that for each: an entry of the journal, told once however many subscriptions it belongs to. What it says is read from the journal by who may see it then.
create table news (
  id bigint generated always as identity primary key,
  person_id uuid not null references person on delete cascade,
  journal_id bigint not null references journal on delete cascade,
  subscription_id uuid references subscription on delete set null,
  at timestamptz not null default now(),
  -- From then on it is shown.
  due_at timestamptz not null,
  read_at timestamptz,
  -- Null: no mail is sent of it.
  mail_at timestamptz,
  mailed_at timestamptz,
  -- The same of a message in the chat.
  chat_at timestamptz,
  chatted_at timestamptz,
  unique (person_id, journal_id)
);
create index on news (person_id, due_at, id);
create index on news (journal_id);
create index on news (subscription_id);
create index news_unread on news (person_id, due_at) where read_at is null;
create index news_to_mail on news (mail_at) where mail_at is not null and mailed_at is null;
create index news_to_chat on news (chat_at) where chat_at is not null and chatted_at is null;
create index on news (at);

-- Events up to this place were told to whom they concern: the one row there is.
create table news_head (
  single boolean primary key default true check (single),
  last bigint not null
);
insert into news_head (last) select last from event_head;
