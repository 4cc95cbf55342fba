-- Notices: a dated note, caution or stop on an asset, shown wherever the asset is shown.
create table notice (
  id uuid primary key default gen_random_uuid(),
  asset_id uuid not null references asset on delete cascade,
  kind text not null check (kind in ('note', 'caution', 'stop')),
  text text not null,
  -- The first and the last day; without a last one until it is ended.
  starts date not null,
  ends date check (ends >= starts),
  -- Whether it holds today: kept by whoever writes it, and by a worker when a day begins.
  holds boolean not null,
  made_by uuid references person on delete set null,
  version int not null default 1,
  removed_at timestamptz,
  created_at timestamptz not null default now()
);
create index on notice (asset_id) where removed_at is null;
create index on notice (starts, ends) where removed_at is null;

create trigger notice_touched_come after insert on notice referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger notice_touched_changed after update on notice referencing new table as fresh old table as old_rows for each statement execute function touch_moved('asset_id');
create trigger notice_touched_go after delete on notice referencing old table as old_rows for each statement execute function touch_old('asset_id');
