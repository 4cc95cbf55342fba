-- Organisations that something is shared with. Their people are none of ours: they are in no group but that of their partner, have no role, answer for nothing, and
-- read what was shared with them alone. A policy for everyone that allows does not mean them.
create table partner (
  id uuid primary key default gen_random_uuid(),
  name text not null,
  note text not null default '',
  made_by uuid references person on delete set null,
  made_at timestamptz not null default now()
);
create unique index on partner (lower(name));

alter table person add column partner_id uuid references partner;
-- Of people of a partner: whether they accept what is offered, and say who else of theirs reads it.
alter table person add column leads boolean not null default false;
alter table person add check (partner_id is not null or not leads);
create index on person (partner_id) where partner_id is not null;
-- All of a partner's people, as policies name them.
alter table person_group add column partner_id uuid unique references partner;

create function partner_people_apart() returns trigger language plpgsql as $$
begin
  if tg_table_name = 'role_grant' then
    if exists (select from person p where p.id = new.person_id and p.partner_id is not null) then
      raise exception 'somebody of a partner has no role' using errcode = 'check_violation';
    end if;
  elsif exists (
    select
    from person p, person_group g
    where p.id = new.person_id and g.id = new.group_id and p.partner_id is distinct from g.partner_id) then
    raise exception 'people of a partner are in its group, and in no other' using errcode = 'check_violation';
  end if;
  return new;
end
$$;
create trigger of_ours before insert or update on role_grant for each row execute function partner_people_apart();
create trigger of_ours before insert or update on group_member for each row execute function partner_people_apart();

-- Nobody else answers for assets.
create or replace view party as
  select id, name, job, email, left_at, false as is_group from person where partner_id is null
  union all
  select id, name, 'group', null, null, true from person_group where partner_id is null;

-- Assets of one source that are offered to a partner, and read by its people once it has accepted: under a name that it chose.
create table share (
  id uuid primary key default gen_random_uuid(),
  number integer generated always as identity unique,
  name text not null,
  -- What it is for and what was agreed; the partner reads it.
  note text not null default '',
  partner_id uuid not null references partner,
  source_id uuid not null references source on delete cascade,
  columns text[],
  columns_but boolean not null default false,
  masked jsonb,
  rows jsonb,
  until timestamptz,
  state text not null default 'offered' check (state in ('offered', 'accepted', 'declined', 'ended')),
  offered_by uuid references person on delete set null,
  offered_at timestamptz not null default now(),
  answered_by uuid references person on delete set null,
  answered_at timestamptz,
  answer text not null default '',
  local_name text,
  ended_by uuid references person on delete set null,
  ended_at timestamptz,
  ended_because text not null default '',
  version integer not null default 1,
  check (state <> 'accepted' or local_name is not null)
);
create index on share (partner_id);
create index on share (source_id);
create unique index share_called on share (partner_id, lower(local_name)) where state = 'accepted';

create table share_asset (
  share_id uuid not null references share on delete cascade,
  asset_id uuid not null references asset on delete cascade,
  primary key (share_id, asset_id)
);
create index on share_asset (asset_id);

-- What a share opens and limits stands in policies, as all else does.
alter table policy add column share_id uuid references share on delete set null;
create index on policy (share_id) where share_id is not null;

-- By which share something was read.
alter table gateway_query add column share_id uuid references share on delete set null;
create index on gateway_query (share_id, at) where share_id is not null;

-- Has a table of the past keep more columns: what it kept so far has nothing in these.
create function past.keeps_also(kept text, more text[]) returns void language plpgsql as $$
declare
  listed text;
  looked text;
  differs text;
  one text;
begin
  foreach one in array more loop
    execute format(
      'alter table past.%I add column %I %s', kept || '_gone', one,
      (select format_type(atttypid, atttypmod) from pg_attribute where attrelid = format('public.%I', kept)::regclass and attname = one));
  end loop;
  select string_agg(quote_ident(attname), ', ' order by attnum),
         string_agg(format(said, 'old', quote_ident(attname)), ', ' order by attnum),
         string_agg(format(said, 'new', quote_ident(attname)), ', ' order by attnum)
  into listed, looked, differs
  from pg_attribute, lateral (select case when attname = 'native' then '%s.%s ->> ''type''' else '%s.%s' end) s(said)
  where attrelid = format('past.%I', kept || '_gone')::regclass and attnum > 0 and not attisdropped and attname not in ('past_since', 'ended_at');
  execute format('drop view past.%I', kept);
  execute format(
    'create view past.%1$I as
     select %2$s, past_since
     from (
       select %2$s, past_since, ''infinity''::timestamptz as ended_at from public.%1$I
       union all
       select %2$s, past_since, ended_at from past.%3$I
     ) x
     where past_since <= past.moment() and ended_at > past.moment()',
    kept, listed, kept || '_gone');
  execute format('drop trigger past_changes on public.%I', kept);
  execute format('drop trigger past_goes on public.%I', kept);
  execute format(
    'create trigger past_changes before update on public.%I for each row when ((%s) is distinct from (%s)) execute function past.changes(%L)',
    kept, looked, differs, listed);
  execute format(
    'create trigger past_goes after delete on public.%I referencing old table as removed for each statement execute function past.goes(%L)', kept, listed);
end
$$;
select past.keeps_also('person', array['partner_id']);
select past.keeps_also('policy', array['share_id']);
