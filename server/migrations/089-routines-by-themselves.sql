-- Routines act by themselves: in several steps, when it is time or when something happens, guarded, and each run can be looked at and taken back.

alter table routine
  add column steps jsonb,
  add column starts jsonb,
  add column guard jsonb not null default '{"most": null, "times": 3}',
  add column enabled boolean not null default true,
  -- When who keeps it agreed that it acts by itself with their rights; null: nobody has.
  add column agreed_at timestamptz,
  -- How many changes stood in the preview when it was saved: what is usual before there were runs.
  add column expected integer not null default 0,
  add column next_at timestamptz;
update routine set steps = jsonb_build_array(jsonb_build_object('do', 'act', 'action', action)), agreed_at = now();
alter table routine alter steps set not null, drop column action;
create index on routine (next_at) where next_at is not null;

-- With a new keeper it waits until they say that it may act with their rights.
create function routine_passes_on() returns trigger language plpgsql as $$
begin
  if new.agreed_at is not distinct from old.agreed_at then new.agreed_at := null; end if;
  return new;
end
$$;
create trigger routine_passes_on before update of made_by on routine
for each row when (new.made_by is distinct from old.made_by) execute function routine_passes_on();

-- What a routine changed is told apart from what people decide by hand.
alter table journal add column run_id uuid;

alter table routine_run
  add column why text not null default 'asked',
  -- What happened, where that is why: the run of a scan.
  add column cause_id uuid references scan_run on delete set null,
  add column steps jsonb,
  add column state text not null default 'done'
    check (state in ('asks', 'running', 'waiting', 'done', 'skipped', 'failed', 'undoing', 'undone')),
  -- The step that is next.
  add column step integer not null default 0,
  add column due_at timestamptz,
  add column beat_at timestamptz,
  add column ended_at timestamptz,
  add column decided integer not null default 0,
  add column unsuited integer not null default 0,
  add column passed_over integer not null default 0,
  add column told integer not null default 0,
  add column guard jsonb,
  add column problem text;
update routine_run set steps = jsonb_build_array(jsonb_build_object('do', 'act', 'action', action)), ended_at = at,
  state = case when undone_at is null then 'done' else 'undone' end;
alter table routine_run alter steps set not null, alter state set default 'running', drop column action;
alter table routine_run add check (why in ('asked', 'schedule', 'new', 'changed', 'gone', 'found', 'failed'));
create index on routine_run (state) where state in ('running', 'waiting', 'undoing', 'asks');

-- What a run goes through, while it does.
create table routine_asset (
  run_id uuid not null references routine_run on delete cascade,
  asset_id uuid not null references asset on delete cascade,
  primary key (run_id, asset_id)
);
create index on routine_asset (asset_id);

-- Each step that changes something is a change of many.
alter table bulk_edit
  add column run_id uuid references routine_run on delete cascade,
  add column step integer,
  add column decided integer not null default 0;
create unique index on bulk_edit (run_id, step) where run_id is not null;
alter table bulk_edit_asset
  -- Who decided by hand, where it is left for that.
  add column decided jsonb,
  add column undone boolean not null default false;

-- Runs of before were kept otherwise: they become changes of many as well.
insert into bulk_edit (person_id, at, action, told, state, found, changes, same, refused, done, done_nth, restored, ended_at, undone_at, run_id, step)
select
  x.person_id, x.at, x.steps -> 0 -> 'action', 'as it was', case when x.undone_at is null then 'done' else 'undone' end, x.found, x.changed, x.same,
  x.refused, x.changed, x.changed, x.restored, x.at, x.undone_at, x.id, 0
from routine_run x
where x.person_id is not null;
insert into bulk_edit_asset (edit_id, nth, asset_id, effect, before)
select e.id, row_number() over (partition by e.id order by c.asset_id), c.asset_id, 'changes', c.before
from routine_change c
join bulk_edit e on e.run_id = c.run_id;
drop table routine_change;

-- Runs of scans that routines have listened to.
alter table scan_run add column heard boolean not null default false;
update scan_run set heard = true where ended_at is not null;
create index on scan_run (ended_at) where ended_at is not null and not heard;

-- Whose rights take a change of many back, where it is not who made it.
alter table bulk_edit add column undone_by uuid references person on delete set null;
-- What routines did before this, for the same reason as above: no run is known by this id.
update journal set run_id = '00000000-0000-0000-0000-000000000000' where action like 'edited by routine %';

-- Who was written to by a step: nobody is twice.
create table routine_told (
  run_id uuid not null references routine_run on delete cascade,
  step integer not null,
  person_id uuid not null references person on delete cascade,
  primary key (run_id, step, person_id)
);

-- What a step asks those who answer for assets, of each.
create table routine_ask (
  run_id uuid not null references routine_run on delete cascade,
  step integer not null,
  asset_id uuid not null references asset on delete cascade,
  -- Who answered for it when it was asked: people and groups.
  asked uuid[] not null,
  answer text check (answer in ('keep', 'go on')),
  person_id uuid references person on delete set null,
  at timestamptz,
  primary key (run_id, step, asset_id)
);
create index on routine_ask (asset_id);
create index on routine_ask using gin (asked) where answer is null;

-- Every filter of routines that are there: their searches, and those of steps that go on with some.
create view routine_filter as
select r.id, r.name, f.filter
from routine r
cross join lateral (
  select r.filter
  union
  select step ->> 'filter' from jsonb_array_elements(r.steps) step where step ->> 'do' = 'only'
) f
where r.removed_at is null;
