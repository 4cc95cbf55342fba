-- What runs on an agent's machine is its software; its version counts edits, as everywhere.
alter table agent rename column version to software;
alter table agent add column version int not null default 1;
