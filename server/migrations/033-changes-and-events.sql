-- Who acted, where it was no person: a service of Idrel, a group. Entries of before by nobody were made by Idrel itself.
alter table journal add column principal_kind text not null default 'person'
  check (principal_kind in ('person', 'group', 'service'));
alter table journal add column principal text;
update journal set principal_kind = 'service', principal = 'Idrel' where person_id is null;
alter table journal add constraint journal_has_principal check (person_id is not null or principal is not null);
create index on journal (at);

-- What happened, for whoever outside wants to know: written with each entry of the journal, in the same transaction. Exchange takes rows away
-- once they are delivered.
create table event (
  id bigint generated always as identity primary key,
  at timestamptz not null default now(),
  journal_id bigint not null references journal on delete cascade,
  subject_kind text not null,
  action text not null
);
create index on event (journal_id);
