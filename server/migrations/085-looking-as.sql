-- As whom somebody looks at the catalog in a session: said once, and noted in the journal.
alter table session add column as_person uuid references person on delete set null;
