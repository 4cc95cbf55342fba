-- A class that a policy rests on protects a column until somebody with the right over the policy lets it go, also when the evidence is gone, the class was
-- dismissed, or thresholds or detectors changed. Kept by triggers, so that no way of writing findings can forget it.
create table class_hold (
  asset_id uuid not null references asset on delete cascade,
  class_key text not null,
  since timestamptz not null default now(),
  primary key (asset_id, class_key)
);

-- Holds what the given assets (null: all) carry now and a policy in force rests on.
create function hold_classes(ids uuid[]) returns void language sql as $$
  insert into class_hold (asset_id, class_key)
  select k.asset_id, k.class_key from (
    select f.asset_id, f.class_key from finding f left join finding_decision d on d.asset_id = f.asset_id and d.class_key = f.class_key
    where (ids is null or f.asset_id = any(ids)) and f.class_key in (select unnest(class_keys) from policy where enabled and effect <> 'allow') and coalesce(d.decision, f.state) <> 'dismissed'
    union select d.asset_id, d.class_key from finding_decision d
    where (ids is null or d.asset_id = any(ids)) and d.class_key in (select unnest(class_keys) from policy where enabled and effect <> 'allow') and d.decision = 'confirmed') k
  on conflict do nothing
$$;

create function hold_all() returns trigger language plpgsql as $$
begin
  perform hold_classes(null);
  return null;
end $$;
create function hold_touched() returns trigger language plpgsql as $$
begin
  if exists (select 1 from policy where enabled and effect <> 'allow' and class_keys <> '{}') then
    perform hold_classes(array(select distinct asset_id from touched));
  end if;
  return null;
end $$;
create trigger held after insert or update on policy for each statement execute function hold_all();
create trigger held after insert or update or delete on class_threshold for each statement execute function hold_all();
create trigger held after insert or update or delete on certainty_rule for each statement execute function hold_all();
create trigger held after update or delete on remembered_dismissal for each statement execute function hold_all();
create trigger held_inserted after insert on claim referencing new table as touched for each statement execute function hold_touched();
create trigger held_updated after update on claim referencing new table as touched for each statement execute function hold_touched();
create trigger held_inserted after insert on finding_decision referencing new table as touched for each statement execute function hold_touched();
create trigger held_updated after update on finding_decision referencing new table as touched for each statement execute function hold_touched();
create trigger held_deleted after delete on finding_decision referencing old table as touched for each statement execute function hold_touched();
select hold_classes(null);

-- A policy that protects can hold also for what carries the values on.
alter table policy add column carried boolean not null default false;

-- An entry that tells of assets in several domains is seen by those who see all of them; an older one of a policy by those who see everything.
alter table journal add column domain_ids uuid[];
