-- Policies that a source holds itself: by which role it is made, what was made, and what the last check found.
create table enforcement (
  source_id uuid primary key references source on delete cascade,
  credential_id uuid references credential,
  version integer not null default 1,
  -- Of what was made: by which it is known whether it would be made otherwise now.
  digest text,
  made_at timestamptz,
  made_by uuid references person on delete set null,
  -- Who reads by it, as far as it is told.
  readers jsonb not null default '[]',
  -- What stood there when it was made, or when it was last accepted: what is otherwise was changed by hand.
  made jsonb not null default '[]',
  checked_at timestamptz,
  found jsonb,
  accepted_reason text,
  accepted_by uuid references person on delete set null,
  accepted_at timestamptz,
  check ((made_at is null) = (digest is null))
);
create index on enforcement (credential_id) where credential_id is not null;
