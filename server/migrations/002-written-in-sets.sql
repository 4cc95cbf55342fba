-- A scan writes tens of thousands of assets in one statement. What follows makes that cost what it must and no more (docs/decisions/005).

-- Words that follow from a column's name alone are kept once per name. `words` of such a column is empty.
create table name_words (
  name text collate "C" primary key,
  words tsvector not null
);
create index on name_words using gin (words);
drop index asset_words_idx;
create index asset_words_idx on asset using gin (words) with (fastupdate = on, gin_pending_list_limit = 32768) where words <> '';
alter table asset alter column name type text collate "C", alter column key type text collate "C";
create index asset_name_idx on asset (name) where words = '';
drop index asset_domain_id_idx;

-- The columns of a table are told apart by their name: one index finds the children of an asset and keeps them apart.
alter table asset drop constraint asset_source_id_key_key;
create unique index asset_key_idx on asset (source_id, key) where kind <> 'column';
drop index asset_parent_id_position_idx;
create unique index asset_child_idx on asset (parent_id, name, kind);

-- A constraint or an expression that is computed for each new row costs as much as an index: a type says the same for nothing,
-- and the level is computed when one of its two causes is set.
create type standing as enum ('unreviewed', 'reviewed', 'trusted', 'retiring');
alter table asset drop constraint asset_standing_check, alter column standing drop default;
alter table asset alter column standing type standing using standing::standing, alter column standing set default 'unreviewed';
alter table asset alter column level drop expression;
create function asset_level() returns trigger language plpgsql as $$
begin
  new.level := coalesce(new.level_set, new.level_found);
  return new;
end $$;
create trigger asset_level before update of level_set, level_found on asset for each row execute function asset_level();

-- A digest of what the scan read; a scan compares digests, and reads the facts of those that differ.
alter table asset add column print uuid;

-- References are checked per statement, not per row: the same promise at a tenth of the cost.
alter table asset drop constraint asset_source_id_fkey, drop constraint asset_parent_id_fkey, drop constraint asset_domain_id_fkey;

create function asset_refer() returns trigger language plpgsql as $$
begin
  -- The locks keep source and domain from being removed before this transaction ends; an asset goes only with its source.
  perform 1 from source s where s.id in (select f.source_id from fresh f) for key share;
  perform 1 from domain d where d.id in (select f.domain_id from fresh f) for key share;
  if exists (select 1 from fresh f where f.source_id not in (select s.id from source s)) then
    raise foreign_key_violation using message = 'an asset refers to a source that does not exist', table = 'asset', column = 'source_id';
  end if;
  if exists (select 1 from fresh f where f.domain_id not in (select d.id from domain d)) then
    raise foreign_key_violation using message = 'an asset refers to a domain that does not exist', table = 'asset', column = 'domain_id';
  end if;
  if exists (select 1 from (select distinct f.parent_id, f.source_id from fresh f where f.parent_id is not null) f
             where not exists (select 1 from asset p where p.id = f.parent_id and p.source_id = f.source_id)) then
    raise foreign_key_violation using message = 'an asset refers to a parent that its source does not have', table = 'asset', column = 'parent_id';
  end if;
  return null;
end $$;
create trigger asset_refer_new after insert on asset referencing new table as fresh for each statement execute function asset_refer();

create function asset_refer_moved() returns trigger language plpgsql as $$
begin
  if not exists (select 1 from source s where s.id = new.source_id)
    or not exists (select 1 from domain d where d.id = new.domain_id for key share)
    or (new.parent_id is not null and not exists (select 1 from asset p where p.id = new.parent_id and p.source_id = new.source_id)) then
    raise foreign_key_violation using message = 'an asset refers to a source, a domain or a parent that does not exist', table = 'asset';
  end if;
  return null;
end $$;
create trigger asset_refer_moved after update of source_id, parent_id, domain_id on asset for each row
  when (old.source_id is distinct from new.source_id or old.parent_id is distinct from new.parent_id or old.domain_id is distinct from new.domain_id)
  execute function asset_refer_moved();

create function asset_go_with_source() returns trigger language plpgsql as $$
begin
  if exists (select 1 from removed) then delete from asset a using removed r where a.source_id = r.id; end if;
  return null;
end $$;
create trigger asset_go_with_source after delete on source referencing old table as removed for each statement execute function asset_go_with_source();

create function asset_go_with_parent() returns trigger language plpgsql as $$
begin
  if exists (select 1 from removed) then delete from asset a using removed r where a.parent_id = r.id; end if;
  return null;
end $$;
create trigger asset_go_with_parent after delete on asset referencing old table as removed for each statement execute function asset_go_with_parent();

create function domain_in_use() returns trigger language plpgsql as $$
begin
  if exists (select 1 from asset a where a.domain_id = old.id) then
    raise foreign_key_violation using message = 'assets belong to the domain still', table = 'domain';
  end if;
  return old;
end $$;
create trigger domain_in_use before delete on domain for each row execute function domain_in_use();
