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
  check (num_nonnulls(person_id, group_id) <= 1)
);
create index on access_review_item (review_id);
create index on access_review_item (review_id) where decision is null;
create index on access_review_item (policy_id);
