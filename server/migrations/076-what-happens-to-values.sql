-- What happens to the value on an edge, in SQL: a line for each expression that it goes through; null where it comes as it is, or where that is not known.
alter table lineage_edge add column expression text;
alter table remote_edge add column expression text;
