-- Each parent is looked up by its id, in a subquery of its own. As a join it was now and then compared with every asset: while the first scan of a source comes
-- in, statistics can say that there is no asset at all, and a join then reads "all of them" once and goes through them for each parent. A first scan of 10,000
-- tables took a minute or two that way, instead of ten seconds.
create or replace function asset_refer() returns trigger language plpgsql set enable_seqscan to off as $$
declare
  sources uuid[];
  domains uuid[];
  parents uuid[];
begin
  select array_agg(t.source_id), array_agg(t.domain_id), array_agg(t.parent_id)
  into sources, domains, parents
  from (select distinct f.source_id, f.domain_id, f.parent_id from fresh f) t;
  -- The locks keep source and domain from being removed before this transaction ends; an asset goes only with its source.
  perform 1 from source s where s.id = any (sources) for key share;
  perform 1 from domain d where d.id = any (domains) for key share;
  if exists (select 1 from unnest(sources) f(id) where not exists (select 1 from source s where s.id = f.id)) then
    raise foreign_key_violation using message = 'an asset refers to a source that does not exist', table = 'asset', column = 'source_id';
  end if;
  if exists (select 1 from unnest(domains) f(id) where not exists (select 1 from domain d where d.id = f.id)) then
    raise foreign_key_violation using message = 'an asset refers to a domain that does not exist', table = 'asset', column = 'domain_id';
  end if;
  if exists (
    select 1
    from unnest(parents, sources) f(id, source_id)
    where f.id is not null and f.source_id is distinct from (select p.source_id from asset p where p.id = f.id)
  ) then
    raise foreign_key_violation using message = 'an asset refers to a parent that its source does not have', table = 'asset', column = 'parent_id';
  end if;
  return null;
end $$;

create or replace function asset_refer_moved() returns trigger language plpgsql as $$
begin
  if not exists (select 1 from source s where s.id = new.source_id)
    or not exists (select 1 from domain d where d.id = new.domain_id for key share)
    or (new.parent_id is not null and new.source_id is distinct from (select p.source_id from asset p where p.id = new.parent_id)) then
    raise foreign_key_violation using message = 'an asset refers to a source, a domain or a parent that does not exist', table = 'asset';
  end if;
  return null;
end $$;
