-- The glossary as SKOS has it: schemes that somebody answers for; terms with labels and notes in several languages, below several others, related to some.
create table scheme (
  id uuid primary key default gen_random_uuid(),
  uri text not null unique default 'urn:uuid:' || gen_random_uuid(),
  name text not null,
  -- The language of its terms, unless one says otherwise (BCP 47).
  language text not null default 'en',
  description text not null default '',
  -- Who agrees to its terms; with nobody, stewards do.
  owner_id uuid references person on delete set null,
  version int not null default 1,
  created_at timestamptz not null default now()
);
create unique index on scheme (lower(name));
insert into scheme (name) values ('House glossary');

alter table term
  add uri text not null unique default 'urn:uuid:' || gen_random_uuid(),
  add scheme_id uuid references scheme,
  add language text not null default 'en',
  -- Labels beside the name, notes beside the definition, matches in other vocabularies; as core/src/glossary has them.
  add labels jsonb not null default '[]',
  add notes jsonb not null default '[]',
  add matches jsonb not null default '[]',
  -- Words of all its labels, by which what carries it is found; null where they are not worked out yet.
  add words tsvector,
  add removed_at timestamptz;
update term
set
  scheme_id = (select id from scheme),
  labels = (select coalesce(jsonb_agg(jsonb_build_object('kind', 'alternative', 'language', 'en', 'text', n)), '[]') from unnest(other_names) n);
alter table term alter scheme_id set not null;
alter table term drop constraint term_name_key;
-- Two terms of one scheme may be called the same where a vocabulary has them so; it is told, and made by hand it is refused.
create index on term (scheme_id, lower(name));
create index on term using gin (words);
alter table term drop constraint term_status_check;
alter table term add check (status in ('draft', 'proposed', 'agreed', 'retired'));

-- What is broader is said once; what is related stands in both directions.
create table term_relation (
  term_id uuid not null references term on delete cascade,
  kind text not null check (kind in ('broader', 'related')),
  other_id uuid not null references term on delete cascade,
  primary key (term_id, kind, other_id),
  check (term_id <> other_id)
);
create index on term_relation (other_id, kind, term_id);
insert into term_relation select id, 'broader', broader_id from term where broader_id is not null;
alter table term drop other_names, drop broader_id;

drop trigger term_named on term;
create trigger term_named after insert or delete or update of name, labels, removed_at on term for each statement execute function touch_names();
-- A term that is removed is found by nobody, and what carried it is found otherwise.
create function touch_carriers_of_term() returns trigger language plpgsql as $$
begin
  insert into touched (asset_ids) select array_agg(asset_id) from asset_term where term_id = new.id having count(*) > 0;
  return null;
end $$;
create trigger term_shown after update of removed_at on term
  for each row when (old.removed_at is distinct from new.removed_at) execute function touch_carriers_of_term();
