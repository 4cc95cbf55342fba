-- All that decides who reads what is kept also as it was: the schema `past` shows these tables as of a moment, under their own names, so that who decides by
-- them now decides by them as they were then. A row that is there says since when (`past_since`); one that was changed or removed is kept with when that was.
-- Rows from before this migration count from it on: `past.begun` tells the first moment that can be asked for.
create schema past;

create table past.begun (at timestamptz not null default now());
insert into past.begun default values;

-- The moment that is looked at: set for a transaction, together with the search path.
create function past.moment() returns timestamptz language sql stable as $$
  select current_setting('idrel.moment')::timestamptz
$$;

-- A row is changed: what it said is kept, and from now on it says something else. The columns kept stand in the argument.
create function past.changes() returns trigger language plpgsql as $$
begin
  if old.past_since < now() then
    execute format('insert into past.%I (%s, past_since, ended_at) select %2$s, past_since, $2 from (select ($1).*) o', tg_table_name || '_gone', tg_argv[0])
      using old, now();
  end if;
  new.past_since := now();
  return new;
end
$$;

-- Rows are removed. What came in the same transaction was never there.
create function past.goes() returns trigger language plpgsql as $$
begin
  execute format('insert into past.%I (%s, past_since, ended_at) select %2$s, past_since, $1 from removed where past_since < $1', tg_table_name || '_gone', tg_argv[0])
    using now();
  return null;
end
$$;

do $$
declare
  kept record;
  listed text;
  differs text;
begin
  for kept in
    select *
    from (values
      ('policy', array['id', 'name', 'effect', 'everyone', 'columns', 'columns_but', 'mask', 'rows', 'enabled', 'carried', 'until', 'hours', 'purposes', 'filter', 'request_id'], array['id']),
      ('policy_subject', array['policy_id', 'group_id', 'person_id', 'excepted'], array['policy_id']),
      ('policy_object', array['policy_id', 'asset_id', 'class_key'], array['policy_id', 'asset_id', 'class_key']),
      ('policy_match', array['policy_id', 'asset_id'], array['policy_id', 'asset_id']),
      ('class_hold', array['asset_id', 'class_key'], array['asset_id', 'class_key']),
      ('carried', array['asset_id', 'class_key', 'from_id', 'via', 'how'], array['asset_id', 'class_key']),
      ('asset', array['id', 'source_id', 'parent_id', 'domain_id', 'kind', 'name', 'key', 'position', 'native', 'level', 'gone_at'], array['id', 'parent_id', 'source_id']),
      ('source', array['id', 'name', 'kind', 'domain_id'], array['id']),
      ('person', array['id', 'name', 'email', 'left_at'], array['id']),
      ('person_attribute', array['person_id', 'key', 'value'], array['person_id']),
      ('group_member', array['group_id', 'person_id'], array['person_id', 'group_id']),
      ('native_role', array['source_id', 'name', 'login', 'superuser', 'bypasses_rows', 'scans', 'member_of'], array['source_id']),
      ('native_match', array['source_id', 'role', 'program'], array['source_id']),
      ('native_match_party', array['source_id', 'role', 'person_id', 'group_id'], array['source_id']),
      ('native_grant', array['asset_id', 'holder', 'how', 'given_by', 'passes_on', 'found_at'], array['asset_id', 'holder']),
      ('native_own_rows', array['asset_id', 'forced'], array['asset_id'])
    ) as t(name, columns, looked_up)
  loop
    select string_agg(quote_ident(c), ', ') into listed from unnest(kept.columns) c;
    -- Of what a source says of an asset its type alone decides anything.
    select format('(%s) is distinct from (%s)', string_agg(format(said, 'old', quote_ident(c)), ', '), string_agg(format(said, 'new', quote_ident(c)), ', '))
    into differs
    from unnest(kept.columns) c, lateral (select case when c = 'native' then '%s.%s ->> ''type''' else '%s.%s' end) s(said);
    execute format('alter table public.%I add column if not exists past_since timestamptz not null default now()', kept.name);
    execute format('create table past.%I as select %s, past_since, past_since as ended_at from public.%I with no data', kept.name || '_gone', listed, kept.name);
    execute format('alter table past.%I alter past_since set not null, alter ended_at set not null', kept.name || '_gone');
    execute (select string_agg(format('create index on past.%I (%I)', kept.name || '_gone', c), '; ') from unnest(kept.looked_up) c);
    -- The conditions stand outside: so what is joined with it is looked up in the indexes of both.
    execute format(
      'create view past.%1$I as
       select %2$s, past_since
       from (
         select %2$s, past_since, ''infinity''::timestamptz as ended_at from public.%1$I
         union all
         select %2$s, past_since, ended_at from past.%3$I
       ) x
       where past_since <= past.moment() and ended_at > past.moment()',
      kept.name, listed, kept.name || '_gone');
    execute format(
      'create trigger past_changes before update on public.%I for each row when (%s) execute function past.changes(%L)', kept.name, differs, listed);
    execute format(
      'create trigger past_goes after delete on public.%I referencing old table as removed for each statement execute function past.goes(%L)',
      kept.name, listed);
  end loop;
end
$$;

-- Edges of lineage have been kept as they were all along.
create view past.lineage_edge as
select flow_id, from_id, to_id, kind, wrong, since
from (
  select flow_id, from_id, to_id, kind, wrong, since, 'infinity'::timestamp(3) with time zone as until from public.lineage_edge
  union all
  select flow_id, from_id, to_id, kind, wrong, since, until from public.ended_edge
) x
where since <= past.moment() and until > past.moment();

-- Lists of policies are read by policy, whatever stands in them: without these, ten thousand of them were looked for in ten thousand rows each.
create index policy_subject_policy on policy_subject (policy_id);
create index policy_object_policy on policy_object (policy_id);
