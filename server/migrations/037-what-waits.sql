-- What waits to be settled is asked for often, and is a small part of what is carried.
create index carried_to_settle on carried (asset_id, class_key) where via = 'itself' and how = 'to-settle';
create index dismissals_seen on finding_decision (asset_id, class_key) where decision = 'dismissed' and seen is not null;
