-- What a credential holds; the secret of a key pair is its second half, that of a token the token itself.
alter table credential
  add column kind text not null default 'user and password' check (kind in ('user and password', 'key pair', 'token')),
  add column version integer not null default 1,
  add column rotated_at timestamptz not null default now();
update credential set rotated_at = created_at;
