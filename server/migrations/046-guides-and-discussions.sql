-- What people write about an asset at length, in Markdown without the labels of what it mentions; each version is kept.
create table guide (
  asset_id uuid primary key references asset on delete cascade,
  text text not null,
  -- Where labels belong, and of what: [{"at": 12, "kind": "person", "id": "…"}].
  mentions jsonb not null default '[]',
  -- How it begins, without marks, as the journal tells it.
  begins text not null default '',
  person_id uuid references person on delete set null,
  at timestamptz not null default now(),
  version int not null default 1
);
create table guide_version (
  asset_id uuid not null references asset on delete cascade,
  version int not null,
  text text not null,
  mentions jsonb not null,
  person_id uuid references person on delete set null,
  at timestamptz not null,
  primary key (asset_id, version)
);
-- Who has a guide open to write in it: said anew every few seconds.
create table writer_here (
  asset_id uuid not null references asset on delete cascade,
  person_id uuid not null references person on delete cascade,
  since timestamptz not null default now(),
  said_at timestamptz not null default now(),
  primary key (asset_id, person_id)
);
-- What a guide of an asset of a kind begins with.
create table guide_template (
  kind text primary key,
  text text not null,
  version int not null default 1
);
insert into guide_template (kind, text)
select k, E'## What one row is\n\n## What to look out for\n\n## How it comes about\n\n## Questions it answers\n'
from unnest(array['table', 'view', 'materialised view', 'foreign table', 'file', 'file set']) k
union all
select k, E'## What it shows\n\n## How to read it\n\n## What to look out for\n'
from unnest(array['report', 'dashboard']) k
union all
select 'flow', E'## What it moves\n\n## When it runs\n\n## What to do when it fails\n';

create table picture (
  id uuid primary key default gen_random_uuid(),
  asset_id uuid not null references asset on delete cascade,
  type text not null,
  width int not null,
  height int not null,
  bytes bytea not null,
  person_id uuid references person on delete set null,
  at timestamptz not null default now()
);
create index on picture (asset_id);

create table discussion (
  id uuid primary key,
  asset_id uuid not null references asset on delete cascade,
  question boolean not null,
  begun_by uuid references person on delete set null,
  begun_at timestamptz not null default now(),
  -- When something was said last.
  moved_at timestamptz not null default now(),
  settled_at timestamptz,
  settled_by uuid references person on delete set null,
  answer_id uuid,
  version int not null default 1
);
create index on discussion (asset_id, moved_at desc);
create index on discussion (begun_at) where question and settled_at is null;
create table remark (
  id uuid primary key,
  discussion_id uuid not null references discussion on delete cascade,
  text text not null,
  mentions jsonb not null default '[]',
  -- Without marks: what the journal tells of it, and what the asset is found by.
  plain text not null default '',
  person_id uuid references person on delete set null,
  at timestamptz not null default now(),
  edited_at timestamptz,
  removed_at timestamptz,
  version int not null default 1
);
create index on remark (discussion_id, at);
-- Who is mentioned in an open discussion, and has not noted it yet.
create table mentioned (
  discussion_id uuid not null references discussion on delete cascade,
  person_id uuid not null references person on delete cascade,
  at timestamptz not null default now(),
  primary key (person_id, discussion_id)
);
create index on mentioned (discussion_id);

-- Words by which an asset is found beside those of its own row: of its guide, and of what is discussed about it.
create table said_words (
  asset_id uuid not null references asset on delete cascade,
  said_in text not null check (said_in in ('guide', 'discussion')),
  words tsvector not null,
  primary key (asset_id, said_in)
);
create index on said_words using gin (words);
create trigger said_touched_come after insert on said_words referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger said_touched_changed after update on said_words referencing new table as fresh old table as old_rows for each statement execute function touch_moved('asset_id');
create trigger said_touched_go after delete on said_words referencing old table as old_rows for each statement execute function touch_old('asset_id');
