-- What a source said of an object when it was last read, so that a run can leave out what has not changed since: of its structure, and
-- of its values (null until they were sampled).
alter table asset add column mark_structure text, add column mark_data text;
