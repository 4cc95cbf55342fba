-- What a policy lets people see: that an asset is there, and what it means, without a role in its domain. A sight is a domain together with the policies that let
-- assets of it be seen: assets that the same people see so have the same, and none where no policy says more.
alter table policy drop constraint policy_opens_check;
alter table policy
  add check (opens in ('see', 'preview', 'read')),
  add constraint what_is_seen_is_listed check (
    opens <> 'see' or filter is null and columns is null and purposes = '{}' and hours is null and not passes_on and given_by is null and share_id is null);
create index policy_sees on policy (id) where opens = 'see';

create table sight (
  -- It follows from the two others, so that it is known without being looked up.
  id uuid primary key,
  domain_id uuid not null references domain on delete cascade,
  policy_ids uuid[] not null
);

alter table asset add column opened_id uuid references sight;
create index asset_opened on asset (source_id, opened_id) where opened_id is not null;
create index on asset (opened_id) where opened_id is not null;

create function sight_of(domain uuid, policies uuid[]) returns uuid immutable language sql as $$
  select case when policies <> '{}' then md5(domain || ' ' || array_to_string(policies, ' '))::uuid end
$$;

-- Works out by what these assets are seen, and what lies in them. One after the other for a source, as scans and moves hold it: two that each know nothing of what
-- the other writes would leave what one of them has taken away.
create function settle_sights(these uuid[]) returns void language plpgsql as $$
begin
  if not exists (select from policy where opens = 'see') and not exists (select from sight) then return; end if;
  perform from source where id in (select source_id from asset where id = any(these)) order by id for no key update;
  with recursive own as materialized (
    select o.asset_id, array_agg(o.policy_id order by o.policy_id) as policies
    from policy_object o
    join policy p on p.id = o.policy_id
    where p.opens = 'see' and o.asset_id is not null
    group by 1
  ),
  due as (
    select
      a.id, a.domain_id,
      array(select unnest(s.policy_ids) union select unnest(own.policies) order by 1) as policies,
      0 as steps
    from unnest(these) g(id)
    join asset a on a.id = g.id
    left join asset p on p.id = a.parent_id
    left join sight s on s.id = p.opened_id
    left join own on own.asset_id = a.id
    union all
    select
      c.id, c.domain_id,
      case
        when own.policies is null then due.policies
        else array(select unnest(due.policies) union select unnest(own.policies) order by 1)
      end,
      due.steps + 1
    from due
    join asset c on c.parent_id = due.id
    left join own on own.asset_id = c.id
  ),
  -- Of what is named with something that holds it the way from the highest counts.
  last as (select distinct on (id) id, domain_id, policies, sight_of(domain_id, policies) as sight from due order by id, steps desc),
  other as materialized (select l.* from last l join asset a on a.id = l.id where a.opened_id is distinct from l.sight),
  known as (
    insert into sight (id, domain_id, policy_ids)
    select distinct sight, domain_id, policies from other where sight is not null
    -- Held until this is done, so that nobody takes it away as one that nothing has.
    on conflict (id) do update set domain_id = excluded.domain_id
  ),
  moved as (
    update asset a
    set opened_id = other.sight
    from other
    where a.id = other.id
    returning a.id
  )
  insert into touched (asset_ids) select array_agg(id) from moved having count(*) > 0;
end $$;

-- Where something lies decides in which sight it is.
create or replace function settle_domains(these uuid[]) returns integer language plpgsql as $$
declare
  n integer;
begin
  with recursive due as (
    select a.id, coalesce(a.domain_set, p.domain_id, s.domain_id) as domain_id, 0 as steps
    from unnest(these) g(id)
    join asset a on a.id = g.id
    join source s on s.id = a.source_id
    left join asset p on p.id = a.parent_id
    union all
    select c.id, due.domain_id, due.steps + 1
    from due
    join asset c on c.parent_id = due.id
    where c.domain_set is null
  ),
  last as (select distinct on (id) id, domain_id from due order by id, steps desc),
  moved as (
    update asset a
    set domain_id = last.domain_id
    from last
    where a.id = last.id and a.domain_id <> last.domain_id
    returning 1
  )
  select count(*)::int into n from moved;
  perform settle_sights(these);
  return n;
end $$;

create function sights_by_objects() returns trigger language plpgsql as $$
begin
  perform settle_sights(array(
    select c.asset_id
    from changed c
    join asset a on a.id = c.asset_id
    where a.opened_id is not null or exists (select from policy p where p.id = c.policy_id and p.opens = 'see')));
  return null;
end $$;
create trigger sights_come after insert on policy_object referencing new table as changed for each statement execute function sights_by_objects();
create trigger sights_go after delete on policy_object referencing old table as changed for each statement execute function sights_by_objects();

create function sights_by_policy() returns trigger language plpgsql as $$
begin
  perform settle_sights(array(select asset_id from policy_object where policy_id = new.id and asset_id is not null));
  return null;
end $$;
create trigger sights_change after update of opens on policy for each row when ((old.opens = 'see') <> (new.opens = 'see')) execute function sights_by_policy();

-- Policies that let a person see something, now.
create function sees_by(person uuid) returns setof uuid stable rows 4 language sql as $$
  select p.id
  from policy p
  join person w on w.id = person
  where p.opens = 'see' and p.enabled and (p.until is null or p.until > now())
    and (
      p.everyone and w.partner_id is null
      or exists (
        select from policy_subject s
        where s.policy_id = p.id and not s.excepted
          and (s.person_id = w.id or s.group_id in (select m.group_id from group_member m where m.person_id = w.id))))
    and not exists (
      select from policy_subject s
      join group_member m on m.group_id = s.group_id and m.person_id = w.id
      where s.policy_id = p.id and s.excepted)
$$;

-- What is still as it was is seen by what lets it be seen now; what was otherwise then, by where it lay.
create or replace view past.asset as
select id, source_id, parent_id, domain_id, kind, name, key, position, native, level, gone_at, past_since, opened_id
from (
  select id, source_id, parent_id, domain_id, kind, name, key, position, native, level, gone_at, past_since, 'infinity'::timestamptz as ended_at, opened_id
  from public.asset
  union all
  select id, source_id, parent_id, domain_id, kind, name, key, position, native, level, gone_at, past_since, ended_at, null
  from past.asset_gone
) x
where past_since <= past.moment() and ended_at > past.moment();
