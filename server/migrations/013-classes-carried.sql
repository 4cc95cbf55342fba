-- The classes that assets carry: found and not dismissed, or confirmed by people; of a column itself, and of what holds the column.
create view asset_class as
  with carried as (
    select f.asset_id, f.class_key from finding f left join finding_decision d on d.asset_id = f.asset_id and d.class_key = f.class_key where d.decision is distinct from 'dismissed'
    union select d.asset_id, d.class_key from finding_decision d where d.decision = 'confirmed')
  select h.id as asset_id, c.class_key from carried c join asset h on h.id = c.asset_id where h.gone_at is null
  union select h.parent_id, c.class_key from carried c join asset h on h.id = c.asset_id where h.gone_at is null and h.kind = 'column' and h.parent_id is not null;
