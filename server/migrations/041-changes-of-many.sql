-- A change of many assets at once: what was chosen and how each stood when the person looked, so that what was seen is what is done, and can be taken back.
create table bulk_edit (
  id uuid primary key default gen_random_uuid(),
  person_id uuid references person on delete cascade,
  at timestamptz not null default now(),
  action jsonb not null,
  -- In words, as the journal tells it.
  told text not null,
  state text not null default 'prepared',
  found int not null default 0,
  changes int not null default 0,
  same int not null default 0,
  refused int not null default 0,
  unsuited int not null default 0,
  done int not null default 0,
  -- The last one that was gone through, of doing or of taking back.
  at_nth int not null default 0,
  -- The last one that was done.
  done_nth int not null default 0,
  -- Would have changed, but somebody changed them since they were looked at, or they are gone.
  passed_over int not null default 0,
  restored int,
  cancelled boolean not null default false,
  beat_at timestamptz,
  started_at timestamptz,
  ended_at timestamptz,
  undone_at timestamptz,
  problem text
);
create index on bulk_edit (person_id, at desc);
create table bulk_edit_asset (
  edit_id uuid not null references bulk_edit on delete cascade,
  nth int not null,
  -- Of an asset that is no more, too: it is passed over.
  asset_id uuid not null,
  effect text not null,
  -- What stood there when it was looked at, as the journal tells it, and what must be kept to take it back.
  now jsonb,
  before text,
  -- Left as it was, when its turn came.
  passed_over boolean not null default false,
  primary key (edit_id, nth)
);

-- With only the term or person, an asset that carries it is looked for among all that do, once the planner takes them for few.
create index on asset_term (term_id, asset_id);
drop index asset_term_term_id_idx;
create index on asset_person (person_id, asset_id);
drop index asset_person_person_id_idx;
