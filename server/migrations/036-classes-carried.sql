-- What an asset carries of classes, told once: how (to settle, certain, confirmed, or by a person alone where no detector finds it), via what (itself; or
-- inside, a holder from a column of it; by lineage is to come), and from which asset. Settled for what was touched, by triggers on whatever it follows from,
-- so that no way of writing can forget it; search, counts, policies and levels read it alone.
create table carried (
  asset_id uuid not null references asset on delete cascade,
  class_key text not null,
  from_id uuid not null references asset on delete cascade,
  via text not null check (via in ('itself', 'inside')),
  how text not null check (how in ('to-settle', 'certain', 'confirmed', 'person')),
  primary key (asset_id, class_key, from_id)
);
create index on carried (class_key, asset_id);
create index on carried (from_id);

-- What these assets carry by what stands now. A column that is gone keeps its classes; what holds it carries them no longer.
create function carried_now(ids uuid[]) returns table (asset_id uuid, class_key text, from_id uuid, via text, how text) language sql stable as $$
  with said as (
    select asset_id, class_key,
           case d.decision
             when 'confirmed' then case when f.state is null then 'person' else 'confirmed' end
             when 'dismissed' then 'dismissed'
             else f.state
           end as how
    from (select x.asset_id, x.class_key, x.state from finding x where x.asset_id = any(ids)) f
    full join (select x.asset_id, x.class_key, x.decision from finding_decision x where x.asset_id = any(ids)) d using (asset_id, class_key)
  )
  select s.asset_id, s.class_key, s.asset_id, 'itself', s.how
  from said s
  where s.how <> 'dismissed'
  union all
  select a.parent_id, s.class_key, s.asset_id, 'inside', s.how
  from said s
  join asset a on a.id = s.asset_id
  where s.how <> 'dismissed' and a.kind = 'column' and a.parent_id is not null and a.gone_at is null
$$;

create function settle_carried(ids uuid[]) returns void language sql as $$
  with now as materialized (select * from carried_now(ids)),
  lost as (
    delete from carried c
    where c.from_id = any(ids)
      and not exists (
        select from now n where n.asset_id = c.asset_id and n.class_key = c.class_key and n.from_id = c.from_id)
  )
  insert into carried (asset_id, class_key, from_id, via, how)
  select n.asset_id, n.class_key, n.from_id, n.via, n.how
  from now n
  left join carried c on c.asset_id = n.asset_id and c.class_key = n.class_key and c.from_id = n.from_id
  where c.how is distinct from n.how
  on conflict (asset_id, class_key, from_id) do update set how = excluded.how, via = excluded.via
$$;

create function carried_come() returns trigger language plpgsql as $$
begin
  perform settle_carried(array(select distinct asset_id from fresh));
  return null;
end $$;
create function carried_go() returns trigger language plpgsql as $$
begin
  perform settle_carried(array(select distinct x.asset_id from old_rows x join asset a on a.id = x.asset_id));
  return null;
end $$;
create function carried_change() returns trigger language plpgsql as $$
begin
  perform settle_carried(array(select asset_id from fresh union select x.asset_id from old_rows x join asset a on a.id = x.asset_id));
  return null;
end $$;
create trigger carried_come after insert on claim referencing new table as fresh for each statement execute function carried_come();
create trigger carried_change after update on claim referencing new table as fresh old table as old_rows for each statement execute function carried_change();
create trigger carried_go after delete on claim referencing old table as old_rows for each statement execute function carried_go();
create trigger carried_come after insert on finding_decision referencing new table as fresh for each statement execute function carried_come();
create trigger carried_change after update on finding_decision referencing new table as fresh old table as old_rows for each statement execute function carried_change();
create trigger carried_go after delete on finding_decision referencing old table as old_rows for each statement execute function carried_go();

-- Thresholds and rules: whatever has a claim of a class that they are about.
create function carried_by_threshold() returns trigger language plpgsql as $$
begin
  if tg_op = 'DELETE' then
    perform settle_carried(array(select distinct c.asset_id from claim c where c.class_key = old.class_key));
  else
    perform settle_carried(array(select distinct c.asset_id from claim c where c.class_key = new.class_key));
  end if;
  return null;
end $$;
create trigger carried after insert or update or delete on class_threshold for each row execute function carried_by_threshold();
create function carried_by_rule() returns trigger language plpgsql as $$
declare
  before text[] := case when tg_op <> 'INSERT' then old.class_keys end;
  after text[] := case when tg_op <> 'DELETE' then new.class_keys end;
  whole boolean := (tg_op <> 'INSERT' and old.class_keys is null) or (tg_op <> 'DELETE' and new.class_keys is null);
begin
  perform settle_carried(array(
    select distinct c.asset_id from claim c where whole or c.class_key = any(coalesce(before, '{}') || coalesce(after, '{}'))));
  return null;
end $$;
create trigger carried after insert or update or delete on certainty_rule for each row execute function carried_by_rule();
create function carried_by_dismissal() returns trigger language plpgsql as $$
begin
  perform settle_carried(array(
    select distinct c.asset_id
    from claim c
    join asset a on a.id = c.asset_id
    where (tg_op <> 'INSERT' and c.class_key = old.class_key and lower(a.name) = old.column_name)
       or (tg_op <> 'DELETE' and c.class_key = new.class_key and lower(a.name) = new.column_name)));
  return null;
end $$;
create trigger carried after insert or update or delete on remembered_dismissal for each row execute function carried_by_dismissal();

-- A column that goes, comes back, moves, or is called or typed otherwise.
create function carried_by_asset() returns trigger language plpgsql as $$
begin
  if exists (select from claim where asset_id = new.id) or exists (select from finding_decision where asset_id = new.id) then
    perform settle_carried(array[new.id]);
  end if;
  return null;
end $$;
create trigger carried after update of gone_at, name, native, parent_id, domain_id on asset for each row
  when (new.kind = 'column' and ((old.gone_at is null) <> (new.gone_at is null) or old.name <> new.name or old.parent_id is distinct from new.parent_id
    or old.domain_id <> new.domain_id or old.native ->> 'type' is distinct from new.native ->> 'type'))
  execute function carried_by_asset();

-- What policies rest on holds as it comes to be carried, by whatever way.
drop trigger held on class_threshold;
drop trigger held on certainty_rule;
drop trigger held on remembered_dismissal;
drop trigger held_inserted on claim;
drop trigger held_updated on claim;
drop trigger held_inserted on finding_decision;
drop trigger held_updated on finding_decision;
drop trigger held_deleted on finding_decision;
create or replace function hold_classes(ids uuid[]) returns void language sql as $$
  insert into class_hold (asset_id, class_key)
  select c.asset_id, c.class_key
  from carried c
  where c.via = 'itself' and (ids is null or c.asset_id = any(ids))
    and c.class_key in (
      select o.class_key
      from policy_object o
      join policy p on p.id = o.policy_id
      where o.class_key is not null and p.enabled and p.effect <> 'allow')
  on conflict do nothing
$$;
create trigger held_inserted after insert on carried referencing new table as touched for each statement execute function hold_touched();

drop view asset_class;
select settle_carried(array(select asset_id from claim union select asset_id from finding_decision));
