-- What a decision was made of: a later finding that says much more comes back to be settled.
alter table finding_decision add column seen jsonb;
