-- Messages that a run sent to webhooks.
alter table routine_run add column calls integer not null default 0;
