-- Objects that a plan does not cover: those that a person knows of (null: the next run tells what was chosen with the scope), and those that are new.
alter table scan_plan add column left_out jsonb;
alter table scan_plan add column uncovered jsonb not null default '[]';
update scan_plan p set left_out = (
  select r.not_covered -> 'paths' from scan_run r where r.plan_id = p.id and r.not_covered is not null and r.ended_at is not null order by r.ended_at limit 1);
