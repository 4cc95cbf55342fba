-- A decision asks for the policies that can mean some tables, not for all of them.
create index policy_assets on policy using gin (asset_ids) where enabled;
create index policy_classes on policy using gin (class_keys) where enabled;
create index policy_carried on policy (effect) where enabled and carried;
