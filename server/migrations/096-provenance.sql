-- What a published catalog says of where its datasets come from: flows as any other.
alter table flow drop constraint flow_origin_check;
alter table flow add constraint flow_origin_check
  check (origin in ('view', 'link', 'routine', 'script', 'asked', 'run event', 'report', 'provenance', 'pushed', 'by hand'));
