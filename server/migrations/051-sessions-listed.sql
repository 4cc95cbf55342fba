-- Sessions are listed for whom they are of, and ended by them: by an id that is no secret.
alter table session
  add column id uuid not null default gen_random_uuid() unique,
  add column seen_at timestamptz not null default now(),
  -- The browser, in words.
  add column browser text not null default '';
