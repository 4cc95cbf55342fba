-- Where in its statement an edge is said: the line on which what does it begins.
alter table lineage_edge add column line int;

-- How many statements a flow runs; and of what could not be settled, where it stands and whether the statement is lost.
alter table flow add column statements int not null default 1;
update flow
set problems = (
  select jsonb_agg(
    jsonb_build_object(
      'reason', p.reason, 'line', null, 'statement', null, 'lost', p.reason like 'The definition cannot be read:%'
    )
  )
  from jsonb_array_elements_text(flow.problems) p(reason)
)
where problems <> '[]';
create index on flow (source_id) where problems <> '[]';
alter table flow drop constraint flow_origin_check;
alter table flow add constraint flow_origin_check
  check (origin in ('view', 'link', 'routine', 'script', 'run event', 'report', 'pushed', 'by hand'));

-- Edges that scripts tell lie in other sources on both sides. What decides about the rows of a table there has no column at its end.
alter table remote_edge add column line int;
