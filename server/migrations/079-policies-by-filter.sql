-- What a policy holds for can be said by a filter: whatever it finds, now and later.
alter table policy add column filter text;
create index on policy ((filter is not null)) where filter is not null;

-- What the filter of a policy that protects or denies has found. What it finds no longer stays protected until somebody with the right lets it go:
-- who may change a tag, an owner or a standing does not thereby open what others protect.
create table policy_match (
  policy_id uuid not null references policy on delete cascade,
  asset_id uuid not null references asset on delete cascade,
  found_at timestamptz not null default now(),
  lost_at timestamptz,
  primary key (policy_id, asset_id)
);
create index on policy_match (asset_id);
create index on policy_match (policy_id) where lost_at is not null;
