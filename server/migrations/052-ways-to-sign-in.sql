-- Links by which a person sets a password: kept as digests, ended once one of them was used.
create table password_link (
  token_hash bytea primary key,
  person_id uuid not null references person on delete cascade,
  made_at timestamptz not null default now(),
  expires_at timestamptz not null
);
create index on password_link (person_id, made_at);

-- Wrong tries in a row, by what was tried: an address (whether it is anybody's or not) from a browser that signed in as them before, or from any other.
create table sign_in_try (
  key bytea primary key,
  wrong int not null default 0,
  -- Until then no try is looked at.
  held_until timestamptz,
  tried_at timestamptz not null default now()
);
create index on sign_in_try (tried_at);

-- Browsers in which somebody has signed in: tries of strangers do not keep them out.
create table known_browser (
  token_hash bytea primary key,
  person_id uuid not null references person on delete cascade,
  seen_at timestamptz not null default now()
);
create index on known_browser (person_id);

-- Who somebody is for an identity provider: by its name for them, which stays, not by their address, which may become another's.
create table outside_identity (
  issuer text not null,
  subject text not null,
  person_id uuid not null references person on delete cascade,
  since timestamptz not null default now(),
  primary key (issuer, subject),
  unique (issuer, person_id)
);

-- What the identity provider calls a group.
alter table person_group add column claim text;
create unique index on person_group (claim);
