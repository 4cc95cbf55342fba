-- An agent tries a draft of a detector where only it can look; what it tries goes with the ask.
alter table agent_ask drop constraint agent_ask_kind_check;
alter table agent_ask add constraint agent_ask_kind_check check (kind in ('test', 'outline', 'trial'));
alter table agent_ask add column given jsonb;

-- What a detector set says of reading, for all plans that use it; null: each plan says so itself.
alter table detector_set add column file_kinds text[];
alter table detector_set add column sampling jsonb;
