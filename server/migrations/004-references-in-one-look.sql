-- New rows are looked through once for what they refer to, not once a reference: few different triples stand in many rows.
create or replace function asset_refer() returns trigger language plpgsql as $$
declare
  sources uuid[];
  domains uuid[];
  parents uuid[];
begin
  select array_agg(t.source_id), array_agg(t.domain_id), array_agg(t.parent_id) into sources, domains, parents from (select distinct f.source_id, f.domain_id, f.parent_id from fresh f) t;
  -- The locks keep source and domain from being removed before this transaction ends; an asset goes only with its source.
  perform 1 from source s where s.id = any (sources) for key share;
  perform 1 from domain d where d.id = any (domains) for key share;
  if exists (select 1 from unnest(sources) f(id) where not exists (select 1 from source s where s.id = f.id)) then
    raise foreign_key_violation using message = 'an asset refers to a source that does not exist', table = 'asset', column = 'source_id';
  end if;
  if exists (select 1 from unnest(domains) f(id) where not exists (select 1 from domain d where d.id = f.id)) then
    raise foreign_key_violation using message = 'an asset refers to a domain that does not exist', table = 'asset', column = 'domain_id';
  end if;
  if exists (select 1 from unnest(parents, sources) f(id, source_id) where f.id is not null and not exists (select 1 from asset p where p.id = f.id and p.source_id = f.source_id)) then
    raise foreign_key_violation using message = 'an asset refers to a parent that its source does not have', table = 'asset', column = 'parent_id';
  end if;
  return null;
end $$;
