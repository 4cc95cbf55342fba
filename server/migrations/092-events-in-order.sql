-- Events are handed out in one order that never changes: each gets its place once it is there to be seen. Their numbers are given before transactions end.
alter table event add column seq bigint;
update event e set seq = n.nth from (select id, row_number() over (order by id) as nth from event) n where n.id = e.id;
create unique index event_seq on event (seq);
create index event_waiting on event (id) where seq is null;
-- The last place that was given: the one row there is.
create table event_head (
  single boolean primary key default true check (single),
  last bigint not null
);
insert into event_head (last) select coalesce(max(seq), 0) from event;
