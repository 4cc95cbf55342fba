-- Tags: keys with or without permitted values, for chosen kinds of asset and for whoever may use them; an asset has one value of each.
create table tag (
  id uuid primary key default gen_random_uuid(),
  name text not null,
  description text not null default '',
  -- The values that may be given, in their order; null: any; an empty list: none.
  permitted text[],
  -- Kinds of asset that may carry it; null: every kind.
  kinds text[],
  -- Groups whose members may give and take it; empty: every editor.
  group_ids uuid[] not null default '{}',
  made_by uuid references person on delete set null,
  version int not null default 1,
  removed_at timestamptz,
  created_at timestamptz not null default now()
);
create unique index on tag (lower(name)) where removed_at is null;
create table asset_tag (
  asset_id uuid not null references asset on delete cascade,
  tag_id uuid not null references tag on delete cascade,
  -- Empty where the tag is given without one.
  value text not null default '',
  primary key (asset_id, tag_id)
);
-- Both keys in either order: whichever the planner takes, an asset that carries a tag is one row.
create index on asset_tag (tag_id, asset_id);

create trigger tag_touched_come after insert on asset_tag referencing new table as fresh for each statement execute function touch_fresh('asset_id');
create trigger tag_touched_changed after update on asset_tag referencing new table as fresh old table as old_rows for each statement execute function touch_moved('asset_id');
create trigger tag_touched_go after delete on asset_tag referencing old table as old_rows for each statement execute function touch_old('asset_id');
create trigger tag_named after insert or delete or update of name on tag for each statement execute function touch_names();
-- A tag that is removed is found by nobody, and what carried it is found otherwise.
create function touch_carriers_of_tag() returns trigger language plpgsql as $$
begin
  insert into touched (asset_ids) select array_agg(asset_id) from asset_tag where tag_id = new.id having count(*) > 0;
  return null;
end $$;
create trigger tag_shown after update of removed_at on tag
  for each row when (old.removed_at is distinct from new.removed_at) execute function touch_carriers_of_tag();
-- The rows of asset_tag are gone by the time a tag is deleted, each touched by its own trigger.
