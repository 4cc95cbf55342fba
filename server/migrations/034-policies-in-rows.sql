-- For whom a policy is, and what it holds for, as rows: what they name is there. Nobody who is named in a policy can be removed; when the last asset
-- of a policy by assets goes (with its source), the policy is switched off, so that it never comes to hold for more than it was written for.
-- Classes have no key to refer to: those that ship with Idrel stand in its code.
create table policy_subject (
  policy_id uuid not null references policy on delete cascade,
  group_id uuid references person_group on delete restrict,
  person_id uuid references person on delete restrict,
  excepted boolean not null default false,
  check (num_nonnulls(group_id, person_id) = 1),
  check (not excepted or group_id is not null)
);
create unique index on policy_subject (policy_id, group_id, excepted) where group_id is not null;
create unique index on policy_subject (policy_id, person_id) where person_id is not null;
create index on policy_subject (group_id);
create index on policy_subject (person_id);

create table policy_object (
  policy_id uuid not null references policy on delete cascade,
  asset_id uuid references asset on delete cascade,
  class_key text,
  check (num_nonnulls(asset_id, class_key) = 1)
);
create unique index on policy_object (policy_id, asset_id) where asset_id is not null;
create unique index on policy_object (policy_id, class_key) where class_key is not null;
create index on policy_object (asset_id);
create index on policy_object (class_key);

insert into policy_subject (policy_id, group_id)
  select p.id, g.id from policy p join person_group g on g.id = any(p.group_ids);
insert into policy_subject (policy_id, group_id, excepted)
  select p.id, g.id, true from policy p join person_group g on g.id = any(p.except_group_ids);
insert into policy_subject (policy_id, person_id)
  select p.id, x.id from policy p join person x on x.id = any(p.person_ids);
insert into policy_object (policy_id, asset_id)
  select p.id, a.id from policy p join asset a on a.id = any(p.asset_ids);
insert into policy_object (policy_id, class_key)
  select distinct p.id, k from policy p, unnest(p.class_keys) k;
-- Of what was listed and is gone, nothing was left that the policy could have held for.
update policy p set enabled = false
where p.asset_ids <> '{}' and not exists (select from policy_object o where o.policy_id = p.id and o.asset_id is not null);

drop index policy_assets;
drop index policy_classes;
alter table policy
  drop column group_ids, drop column person_ids, drop column except_group_ids,
  drop column asset_ids, drop column class_keys, drop column domain_id;

create function policy_without_assets() returns trigger language plpgsql as $$
begin
  update policy p set enabled = false, version = version + 1
  where p.enabled
    and p.id in (select policy_id from removed where asset_id is not null)
    and not exists (select from policy_object o where o.policy_id = p.id and o.asset_id is not null)
    -- An asset is gone, not merely taken out of the list by whoever changes the policy.
    and not exists (select from asset a join removed r on r.asset_id = a.id where r.policy_id = p.id);
  return null;
end $$;
create trigger assets_gone after delete on policy_object referencing old table as removed
  for each statement execute function policy_without_assets();

-- The classes that policies in force rest on hold, whichever way a policy comes to rest on one.
create or replace function hold_classes(ids uuid[]) returns void language sql as $$
  with resting as (
    select distinct o.class_key
    from policy_object o
    join policy p on p.id = o.policy_id
    where o.class_key is not null and p.enabled and p.effect <> 'allow'
  )
  insert into class_hold (asset_id, class_key)
  select k.asset_id, k.class_key from (
    select f.asset_id, f.class_key
    from finding f
    left join finding_decision d on d.asset_id = f.asset_id and d.class_key = f.class_key
    where (ids is null or f.asset_id = any(ids))
      and f.class_key in (select class_key from resting)
      and coalesce(d.decision, f.state) <> 'dismissed'
    union
    select d.asset_id, d.class_key
    from finding_decision d
    where (ids is null or d.asset_id = any(ids))
      and d.class_key in (select class_key from resting)
      and d.decision = 'confirmed') k
  on conflict do nothing
$$;
create or replace function hold_touched() returns trigger language plpgsql as $$
begin
  if exists (
    select from policy_object o
    join policy p on p.id = o.policy_id
    where o.class_key is not null and p.enabled and p.effect <> 'allow'
  ) then
    perform hold_classes(array(select distinct asset_id from touched));
  end if;
  return null;
end $$;
create trigger held after insert on policy_object for each statement execute function hold_all();
