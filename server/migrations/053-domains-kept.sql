-- Domains are kept by people: what each is for, and who answers for it.
alter table domain
  add column purpose text not null default '',
  add column owner_id uuid references person,
  add column version integer not null default 1;
create index on domain (owner_id);
create index on domain (parent_id);
