-- A choice of detectors that plans share, told by what it leaves out: detectors that come later belong to it.
create table detector_set (
  id uuid primary key default gen_random_uuid(),
  name text not null,
  description text not null default '',
  leaves_out text[] not null default '{}',
  made_by uuid references person on delete set null,
  version int not null default 1,
  created_at timestamptz not null default now()
);
create unique index on detector_set (lower(name));
