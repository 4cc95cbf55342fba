-- What must be so before an asset of a kind is trusted; of kinds without a row nothing.
create table checklist (
  kind text primary key,
  described boolean not null default false,
  owned boolean not null default false,
  -- The share of its columns that must be described; null: none.
  columns_described double precision check (columns_described > 0 and columns_described <= 1),
  findings_settled boolean not null default false,
  lineage_up boolean not null default false,
  lineage_down boolean not null default false,
  -- So many days ago its source was scanned at most; null: whenever.
  fresh_days int check (fresh_days > 0),
  version int not null default 1
);
insert into checklist (kind, described, owned, columns_described, findings_settled)
select k, true, true, case when k not in ('report', 'dashboard') then 0.8 end, true
from unnest(array['table', 'view', 'materialised view', 'foreign table', 'file', 'file set', 'report', 'dashboard']) k;

-- Who said that an asset can be relied on, until when; and why that lapsed, where it did. It is in force while the asset is trusted.
create table certification (
  asset_id uuid primary key references asset on delete cascade,
  person_id uuid references person on delete set null,
  at timestamptz not null default now(),
  until date,
  lapsed_at timestamptz,
  reason text,
  -- Somebody took the lapse off the worklist.
  noted boolean not null default false
);
create index on certification (lapsed_at) where lapsed_at is not null and not noted;

-- What was written lately is looked at again.
create index on touched (noted);

-- What takes the place of an asset that is retiring, and when it goes.
create table retirement (
  asset_id uuid primary key references asset on delete cascade,
  replacement_id uuid references asset on delete set null,
  on_day date,
  person_id uuid references person on delete set null,
  at timestamptz not null default now(),
  check (asset_id <> replacement_id)
);
create index on retirement (replacement_id);
