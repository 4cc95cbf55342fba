-- What carries a tag is found by the words of its key. Null: not worked out yet.
alter table tag add column words tsvector;
create index on tag using gin (words);
