-- Which table feeds which, by values or by rows, for each flow: what is asked first of lineage, and would else be worked out of every column's edges each time.
create table lineage_feed (
  flow_id uuid not null references flow on delete cascade,
  from_id uuid not null references asset on delete cascade,
  to_id uuid not null references asset on delete cascade,
  primary key (flow_id, from_id, to_id)
);
create index on lineage_feed (from_id, to_id);
create index on lineage_feed (to_id, from_id);

create function feeds_of(flows uuid[]) returns table (flow_id uuid, from_id uuid, to_id uuid) language sql stable as $$
  select e.flow_id, f.parent_id, t.parent_id
  from lineage_edge e join asset f on f.id = e.from_id join asset t on t.id = e.to_id
  where e.flow_id = any(flows) and f.parent_id <> t.parent_id
  union
  select i.flow_id, c.parent_id, l.asset_id
  from lineage_influence i join flow l on l.id = i.flow_id join asset c on c.id = i.from_id
  where i.flow_id = any(flows) and i.kind <> 'unused' and c.parent_id <> l.asset_id
$$;

create function follow_feeds() returns trigger language plpgsql as $$
declare
  touched_flows uuid[] := array(select distinct t.flow_id from touched t join flow l on l.id = t.flow_id);
begin
  if cardinality(touched_flows) = 0 then return null; end if;
  if tg_op <> 'INSERT' then delete from lineage_feed x where x.flow_id = any(touched_flows); end if;
  insert into lineage_feed select * from feeds_of(touched_flows) on conflict do nothing;
  return null;
end $$;
create trigger edges_come after insert on lineage_edge referencing new table as touched for each statement execute function follow_feeds();
create trigger edges_change after update on lineage_edge referencing new table as touched for each statement execute function follow_feeds();
create trigger edges_go after delete on lineage_edge referencing old table as touched for each statement execute function follow_feeds();
create trigger influences_come after insert on lineage_influence referencing new table as touched for each statement execute function follow_feeds();
create trigger influences_change after update on lineage_influence referencing new table as touched for each statement execute function follow_feeds();
create trigger influences_go after delete on lineage_influence referencing old table as touched for each statement execute function follow_feeds();

insert into lineage_feed select * from feeds_of(array(select id from flow));
