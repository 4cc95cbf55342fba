-- What takes more or less room at its source is found otherwise.
drop trigger asset_touched on asset;
create trigger asset_touched
  after update of
    name, key, parent_id, source_id, domain_id, kind, position, description, standing, level, level_found, level_set, rises, words, gone_at, native, first_seen, stats on asset
  for each row when (
    (old.name, old.key, old.parent_id, old.source_id, old.domain_id, old.kind, old.position, old.description, old.standing, old.level, old.words, old.gone_at, old.first_seen,
      old.native ->> 'type', old.native ->> 'returns', old.native ->> 'form', old.stats -> 'bytes')
    is distinct from
    (new.name, new.key, new.parent_id, new.source_id, new.domain_id, new.kind, new.position, new.description, new.standing, new.level, new.words, new.gone_at, new.first_seen,
      new.native ->> 'type', new.native ->> 'returns', new.native ->> 'form', new.stats -> 'bytes')
  ) execute function touch_row();

-- Days on which figures were kept, and when that was done last.
create table coverage_day (
  day date primary key,
  at timestamptz not null default now()
);

-- What the figures of some assets of a domain were, from a day on until they were others: of those of one source, kind, level or owner.
create table coverage_span (
  by text not null check (by in ('source', 'kind', 'level', 'owner')),
  -- An id, or a word; empty for what has no owner.
  key text not null,
  domain_id uuid not null references domain on delete cascade,
  from_day date not null,
  -- The first day on which they were others; null: they still are these.
  until_day date,
  assets integer not null,
  -- How many of them meet each measure, by its key, and the room that they take, in bytes; what is zero is left out.
  met jsonb not null,
  check (until_day > from_day)
);
create index on coverage_span (by, domain_id, from_day);
create index on coverage_span (domain_id);
create index coverage_span_now on coverage_span (by, key, domain_id) where until_day is null;

-- Which share of a domain's assets is to meet a measure by a day.
create table coverage_target (
  id uuid primary key default gen_random_uuid(),
  domain_id uuid not null references domain on delete cascade,
  measure text not null,
  share float8 not null check (share > 0 and share <= 1),
  by_day date not null,
  since date not null default current_date,
  made_by uuid references person on delete set null,
  version integer not null default 1,
  unique (domain_id, measure)
);
create index on coverage_target (made_by) where made_by is not null;

-- What room costs: the one row there is.
create table room_price (
  id uuid primary key default gen_random_uuid(),
  single boolean not null default true unique check (single),
  -- For a gigabyte (10^9 bytes) a month; null: nobody has said it.
  price float8 check (price >= 0),
  currency text not null default 'EUR',
  version integer not null default 1
);
insert into room_price default values;

-- Who is sent the report of each month, and for which month that was done last.
create table report_reader (
  person_id uuid primary key references person on delete cascade,
  since timestamptz not null default now(),
  sent_for date
);

-- What somebody did in a week is looked up by who did it.
create index on journal (person_id, at) where person_id is not null;
