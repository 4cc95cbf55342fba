-- What a detector claims stands in `claim` as it came; a finding is a claim as the organisation takes it: with its thresholds, its rules, and what people dismissed
-- wherever it stands. So a change of those holds at once, without a new scan.
drop view asset_class;
alter table finding rename to claim;
alter table claim add column checked boolean not null default false;
create index on claim (class_key);

-- From which confidence a class is certain, and from which it is shown at all; a class without a row has those that its detectors say.
create table class_threshold (
  class_key text primary key,
  certain double precision not null check (certain between 0.5 and 1),
  settle double precision not null check (settle between 0.5 and 1),
  version integer not null default 1,
  made_by uuid references person on delete set null,
  made_at timestamptz not null default now(),
  check (settle <= certain)
);

-- What confirms a finding without a person.
create table certainty_rule (
  id uuid primary key default gen_random_uuid(),
  name text not null,
  -- Null: every class.
  class_keys text[],
  checked boolean not null,
  named boolean not null,
  min_share double precision not null,
  min_confidence double precision not null,
  min_distinct integer not null,
  version integer not null default 1,
  made_by uuid references person on delete set null,
  made_at timestamptz not null default now()
);
create unique index on certainty_rule (lower(name));

-- A dismissal that holds for every column of a name and type in a domain and below, now and later.
create table remembered_dismissal (
  id uuid primary key default gen_random_uuid(),
  class_key text not null,
  column_name text not null,
  column_type text,
  domain_id uuid not null references domain on delete cascade,
  reason text not null default '',
  -- The strongest claim that was dismissed.
  share double precision not null,
  confidence double precision not null,
  made_by uuid references person on delete set null,
  made_at timestamptz not null default now(),
  unique nulls not distinct (class_key, column_name, column_type, domain_id)
);

-- The domains in which it holds: its own and those below, worked out when it is made and whenever the tree of domains changes, since every look at a finding asks.
create function domains_from(top uuid) returns uuid[] language sql stable as $$
  with recursive down as (select id from domain where id = top union all select d.id from domain d join down on d.parent_id = down.id) select array_agg(id) from down
$$;
alter table remembered_dismissal add column domain_ids uuid[] not null;
create function domains_changed() returns trigger language plpgsql as $$
begin
  update remembered_dismissal set domain_ids = domains_from(domain_id);
  return null;
end $$;
create trigger domains_changed after insert or update on domain for each statement execute function domains_changed();

create view finding as
  select k.*,
    case
      -- One that says much more than what was dismissed comes back, to be settled.
      when k.remembered_id is not null then (select case when k.confidence >= r.confidence + 0.15 or k.share >= r.share + 0.25 then 'to-settle' else 'dismissed' end from remembered_dismissal r where r.id = k.remembered_id)
      when k.rule_id is not null then 'confirmed'
      when k.certain_from is null then k.told
      when k.confidence >= k.certain_from and not k.contested and (k.share >= 0.7 or k.class_key in ('personal-text', 'health-text')) then 'certain'
      else 'to-settle'
    end as state
  from (
    select c.asset_id, c.class_key, c.detector, c.detector_version, c.share, c.matched, c.sampled, c.distinct_values, c.confidence, c.checked, c.evidence, c.run_id, c.found_at, c.state as told,
      t.certain as certain_from,
      -- Sure enough to be certain, and yet not: another class is as likely.
      c.state = 'to-settle' and c.confidence >= 0.95 and c.share >= 0.7 as contested,
      (select r.id from remembered_dismissal r join asset a on a.id = c.asset_id
        where r.class_key = c.class_key and r.column_name = lower(a.name) and r.column_type is not distinct from a.native ->> 'type' and a.domain_id = any(r.domain_ids)
        order by r.made_at desc limit 1) as remembered_id,
      (select r.id from certainty_rule r
        where (r.class_keys is null or c.class_key = any(r.class_keys)) and (not r.checked or c.checked) and (not r.named or c.evidence -> 'name' ->> 'verdict' = 'agrees')
          and c.share >= r.min_share and c.confidence >= r.min_confidence and c.distinct_values >= r.min_distinct
          and not (c.state = 'to-settle' and c.confidence >= 0.95 and c.share >= 0.7) and c.evidence -> 'name' ->> 'verdict' is distinct from 'disagrees'
        order by r.name limit 1) as rule_id
    from claim c left join class_threshold t on t.class_key = c.class_key
    where t.settle is null or c.confidence >= t.settle) k;

-- The classes that assets carry: found and not dismissed, or confirmed by people; of a column itself, and of what holds the column.
create view asset_class as
  with carried as (
    select f.asset_id, f.class_key from finding f left join finding_decision d on d.asset_id = f.asset_id and d.class_key = f.class_key where coalesce(d.decision, f.state) <> 'dismissed'
    union select d.asset_id, d.class_key from finding_decision d where d.decision = 'confirmed')
  select h.id as asset_id, c.class_key from carried c join asset h on h.id = c.asset_id where h.gone_at is null
  union select h.parent_id, c.class_key from carried c join asset h on h.id = c.asset_id where h.gone_at is null and h.kind = 'column' and h.parent_id is not null;
