-- Statements that were asked at a source, and write: flows as any other.
alter table flow drop constraint flow_origin_check;
alter table flow add constraint flow_origin_check
  check (origin in ('view', 'link', 'routine', 'script', 'asked', 'run event', 'report', 'pushed', 'by hand'));
