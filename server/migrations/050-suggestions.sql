-- What was suggested for an asset and refused: it does not come back.
create table suggestion_refused (
  asset_id uuid not null references asset on delete cascade,
  field text not null,
  value text not null,
  -- Long texts are compared by their digest.
  digest text generated always as (md5(value)) stored,
  person_id uuid references person on delete set null,
  at timestamptz not null default now(),
  primary key (asset_id, field, digest)
);
-- Columns of a name that say what they mean: few do.
create index asset_described_name on asset (name) where description is not null and gone_at is null;
