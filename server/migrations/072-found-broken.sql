-- What is found to be broken without running it: a flow or a definition that names what is gone, a table that nothing writes any more which was written until
-- lately, a report that is made from what retires. Worked out in the background; the worklist reads it here.
create table broken (
  asset_id uuid not null references asset (id) on delete cascade,
  what text not null check (what in ('names what is gone', 'is written no more', 'is made from what retires')),
  -- What is gone, wrote it, or retires; nothing where that is no asset.
  causes uuid[] not null,
  since timestamptz not null,
  primary key (asset_id, what)
);
-- That a person noted it, with these causes.
create table broken_seen (
  asset_id uuid not null references asset (id) on delete cascade,
  what text not null,
  causes uuid[] not null,
  person_id uuid not null references person (id) on delete cascade,
  primary key (asset_id, what, person_id)
);
create index broken_seen_person on broken_seen (person_id);
