-- One owner answers for an asset: a person or a group. Of several the first by name stays; the others look after it as stewards.
create view party as
  select id, name, job, email, left_at, false as is_group from person
  union all
  select id, name, 'group', null, null, true from person_group;

with others as (
  select asset_id, person_id
  from (
    select ap.asset_id, ap.person_id, row_number() over (partition by ap.asset_id order by p.name, p.id) as nth
    from asset_person ap
    join person p on p.id = ap.person_id
    where ap.role = 'owner'
  ) o
  where o.nth > 1
),
stewards as (
  insert into asset_person (asset_id, person_id, role)
  select asset_id, person_id, 'steward' from others
  on conflict do nothing
)
delete from asset_person o
using others
where o.role = 'owner' and (o.asset_id, o.person_id) = (others.asset_id, others.person_id);
create unique index asset_owner on asset_person (asset_id) where role = 'owner';

-- `person_id` names a group, too, where that is the owner: what a foreign key held is held by triggers.
alter table asset_person drop constraint asset_person_person_id_fkey;
create function party_of_asset() returns trigger
language plpgsql as $$
begin
  if not exists (select from party p where p.id = new.person_id and (new.role = 'owner' or not p.is_group)) then
    raise foreign_key_violation using message = format('Nobody with the id %s can be %s.', new.person_id, new.role);
  end if;
  return new;
end
$$;
create constraint trigger party_there after insert or update on asset_person
deferrable initially immediate for each row execute function party_of_asset();
create function party_gone() returns trigger
language plpgsql as $$
begin
  delete from asset_person where person_id = old.id;
  return null;
end
$$;
create trigger assets_of_person after delete on person for each row execute function party_gone();
create trigger assets_of_group after delete on person_group for each row execute function party_gone();

create trigger group_named after insert or delete or update of name on person_group for each statement execute function touch_names();
