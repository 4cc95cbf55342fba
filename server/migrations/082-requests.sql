-- Asked for: who wants to read what, what for and until when, and what was answered.
create table access_request (
  id uuid primary key default gen_random_uuid(),
  number integer generated always as identity unique,
  person_id uuid not null references person on delete cascade,
  purpose text not null,
  note text not null default '',
  -- Only these columns of the one asset that it names; null for all.
  columns text[],
  until timestamptz,
  asked_at timestamptz not null default now(),
  state text not null default 'waiting' check (state in ('waiting', 'granted', 'refused', 'taken back', 'ended')),
  answered_at timestamptz,
  answered_by uuid references person on delete set null,
  -- The one who was away, and for whom a deputy answered.
  answered_for uuid references person on delete set null,
  answer text,
  -- What was granted, as it was said: the policies that it made follow from it.
  granted jsonb,
  reminded_at timestamptz,
  -- The one who asked has taken the answer, or the coming end, off their worklist.
  answer_seen boolean not null default false,
  end_seen boolean not null default false,
  version integer not null default 1
);
create index on access_request (person_id);
create index on access_request (asked_at) where state = 'waiting';
create index on access_request (answered_at) where state = 'granted';

create table access_request_asset (
  request_id uuid not null references access_request on delete cascade,
  asset_id uuid not null references asset on delete cascade,
  primary key (request_id, asset_id)
);
create index on access_request_asset (asset_id);

alter table policy add column request_id uuid references access_request on delete set null;
create index on policy (request_id) where request_id is not null;

-- Who answers requests for somebody while they are away.
create table deputy (
  person_id uuid primary key references person on delete cascade,
  deputy_id uuid not null references person on delete cascade,
  from_at timestamptz not null,
  until_at timestamptz not null,
  version integer not null default 1,
  check (person_id <> deputy_id),
  check (from_at < until_at)
);
create index on deputy (deputy_id);

-- Who answers for an asset: the owner of the nearest of itself and what it lies in that has one, else the owner of the nearest domain that has one.
create function answers_for(asset uuid) returns uuid language sql stable as $$
  with recursive up as (
    select a.id, a.parent_id, a.domain_id, 0 as distance from asset a where a.id = asset
    union all
    select p.id, p.parent_id, p.domain_id, up.distance + 1 from up join asset p on p.id = up.parent_id
  ),
  above as (
    select d.parent_id, d.owner_id, 0 as distance from up join domain d on d.id = up.domain_id where up.distance = 0
    union all
    select d.parent_id, d.owner_id, above.distance + 1 from above join domain d on d.id = above.parent_id
  )
  select coalesce(
    (select x.person_id
     from up
     join asset_person x on x.asset_id = up.id and x.role = 'owner'
     join party p on p.id = x.person_id and p.left_at is null
     order by up.distance limit 1),
    (select p.id from above join person p on p.id = above.owner_id and p.left_at is null order by above.distance limit 1))
$$;
