-- The domains in which an asset lies with all that lies in it: its own, and those that somebody chose for something below it.
create function domains_within(asset uuid) returns uuid[] language sql stable as $$
  with recursive here as (select a.id, a.kind, a.source_id, a.domain_id from asset a where a.id = asset),
  up as (
    select m.domain_id, m.parent_id as id
    from here
    join asset m on m.source_id = here.source_id and m.domain_set is not null
    where here.kind in ('schema', 'database', 'folder')
    union
    select up.domain_id, a.parent_id from up join asset a on a.id = up.id where a.parent_id is not null
  )
  select array(select domain_id from here union select up.domain_id from up where up.id = asset)
$$;

-- Who owns something that lies in an asset. Of a database the owners of its source are followed up, of what holds less what lies in it down.
create function owners_within(asset uuid) returns uuid[] language sql stable as $$
  with recursive here as (select a.id, a.kind, a.source_id from asset a where a.id = asset),
  up as (
    select x.person_id, o.parent_id as id
    from here
    join asset o on o.source_id = here.source_id
    join asset_person x on x.asset_id = o.id and x.role = 'owner'
    where here.kind = 'database'
    union
    select up.person_id, a.parent_id from up join asset a on a.id = up.id where a.parent_id is not null
  ),
  down as (
    select c.id from here join asset c on c.parent_id = here.id and c.kind <> 'column' where here.kind in ('schema', 'folder')
    union all
    select c.id from down join asset c on c.parent_id = down.id and c.kind <> 'column'
  )
  select array(
    select up.person_id from up where up.id = asset
    union
    select x.person_id from down join asset_person x on x.asset_id = down.id and x.role = 'owner')
$$;

-- When one of these people last asked for one of these assets, or for what lies in them, through the gateway.
create function last_asked(people uuid[], assets uuid[]) returns timestamptz language sql stable as $$
  select max(b.moved_at)
  from asked_by b
  join asked_for f on f.statement_id = b.statement_id
  where b.person_id = any(people) and exists (
    with recursive up as (
      select a.id, a.parent_id from asset a where a.id = f.asset_id
      union all
      select p.id, p.parent_id from up join asset p on p.id = up.parent_id
    )
    select from up where up.id = any(assets))
$$;

-- Rights that those who answer for what they open are asked to keep or to end, until a day.
create table access_review (
  id uuid primary key default gen_random_uuid(),
  name text not null unique,
  -- Only rights on what it finds, on what that lies in and what lies in it; null: all.
  filter text,
  ends_at timestamptz not null,
  -- What becomes of the rights of which nobody has said anything by then.
  rest text not null check (rest in ('ends', 'stays')),
  started_by uuid references person on delete set null,
  started_at timestamptz not null default now(),
  over_at timestamptz,
  version integer not null default 1
);
create index on access_review (ends_at) where over_at is null;

-- A right: who reads by a policy that allows. It is told by name when the policy is gone.
create table access_review_item (
  id uuid primary key default gen_random_uuid(),
  review_id uuid not null references access_review on delete cascade,
  policy_id uuid references policy on delete set null,
  policy text not null,
  request_id uuid references access_request on delete set null,
  person_id uuid references person on delete cascade,
  group_id uuid references person_group on delete cascade,
  asset_ids uuid[] not null,
  -- Who answers for these assets, as of a moment ago: whose turn it is. Who may decide is worked out when they do.
  parties uuid[] not null default '{}',
  decision text check (decision in ('kept', 'ended', 'gone')),
  decided_at timestamptz,
  decided_by uuid references person on delete set null,
  -- Of a policy that it was taken out of, the version then: who takes that back is told when somebody changed it since.
  policy_version integer,
  -- It was switched off with that, since nobody was left whom it was for.
  switched_off boolean not null default false,
  check (num_nonnulls(person_id, group_id) <= 1)
);
create index on access_review_item (review_id);
create index on access_review_item (review_id) where decision is null;
create index on access_review_item (policy_id);
