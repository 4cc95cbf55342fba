-- A run that failed is tried again by one that waits until then.
alter table scan_run add column not_before timestamptz;
