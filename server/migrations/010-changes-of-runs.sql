-- What each run found different, whole: what two runs far apart differ in is put together from it. Assets are named, not referred to: one may be taken in by another.
create table run_change (
  run_id uuid not null references scan_run on delete cascade,
  asset_id uuid not null,
  path text not null,
  kind text not null,
  change text not null check (change in ('new', 'changed', 'gone', 'back')),
  what text[] not null default '{}',
  primary key (run_id, asset_id)
);
create index on run_change (asset_id);
