-- When somebody, or a scan, last changed an asset: what it is, where it lies, what people say of it. Null: nothing since it was first seen.
alter table asset add column changed_at timestamptz;

-- Every edit by people gives a new version; a scan that writes what stood there already changes nothing.
create function asset_changed() returns trigger language plpgsql as $$
begin
  new.changed_at := now();
  return new;
end $$;
create trigger asset_changed before update of
  version, name, parent_id, source_id, domain_id, native, native_comment, gone_at, description, standing, level_set on asset
  for each row when (
    (old.version, old.name, old.parent_id, old.source_id, old.domain_id, old.native, old.native_comment, old.gone_at, old.description, old.standing, old.level_set)
    is distinct from
    (new.version, new.name, new.parent_id, new.source_id, new.domain_id, new.native, new.native_comment, new.gone_at, new.description, new.standing, new.level_set)
  ) execute function asset_changed();

-- What else changes of it is told to whoever keeps assets in memory by triggers of its own; this is not.
create trigger asset_changed_touched after update of native, native_comment on asset
  for each row when ((old.native, old.native_comment) is distinct from (new.native, new.native_comment)) execute function touch_row();
