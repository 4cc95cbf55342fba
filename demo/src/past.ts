import pg from 'pg';
import { OFFICES } from './offices.ts';

/**
 * What the last ninety days left behind: nightly runs of the offices ashore, one of them failed, a week without any; and levels everywhere that rose with a campaign
 * and fell for some days. The API has no clock of its own: so this alone is written straight into the catalog's database.
 */
export async function makePast(databaseUrl: string): Promise<void> {
  const client = new pg.Client(databaseUrl);
  await client.connect();
  const bind = [OFFICES.map(({ name }) => name)];
  try {
    await client.query('begin');
    // Scanned every night since: nothing of it is new.
    await client.query(
      "update asset set first_seen = now() - interval '91 days' where source_id in (select id from source where name = any($1::text[]))",
      bind,
    );
    await client.query(
      `
        insert into scan_run (source_id, plan_id, state, options, counts, asked_at, started_at, beat_at, ended_at, problem, heard)
        select
          r.source_id, r.plan_id, case when d = 41 then 'failed' else 'done' end, r.options,
          case
            when d = 41 then '{}'::jsonb
            else r.counts || jsonb_build_object('findings', 0)
          end,
          t.at, t.at, t.at, t.at + make_interval(secs => 9 + (d * 7) % 5),
          case
            when d = 41 then
              '{"what": "The server did not answer within 10 seconds.", "mend": "Look whether it is running, then run the plan again."}'::jsonb
          end,
          true
        from scan_run r
        join source s on s.id = r.source_id and s.name = any($1::text[])
        cross join generate_series(1, 90) d
        cross join lateral (select date_trunc('day', now()) - make_interval(days => d) + interval '30 minutes' as at) t
        -- In the holidays the machine was off.
        where r.plan_id is not null and r.state = 'done' and d not between 66 and 72`,
      bind,
    );
    await client.query(
      `
        insert into level_day (day, source_id, domain_id, kind, level, assets)
        select
          current_date - d, l.source_id, l.domain_id, l.kind, l.level,
          greatest(0, round(l.assets * case
            when d > 75 then 0.35
            when d > 50 then 0.35 + (75 - d) * 0.016
            when d > 41 then 0.75
            when d > 36 then 0.55
            else 0.75 + (36 - d) * 0.007
          end))::int
        from level_day l
        cross join generate_series(1, 90) d
        where l.day = current_date
        on conflict do nothing`,
    );
    // Routines that run on Mondays did so before: once the catalog could not be reached.
    await client.query(
      `
        insert into routine_run (
          routine_id, person_id, why, filter, steps, state, at, ended_at, found, changed, same, refused, problem
        )
        select
          r.id, r.made_by, 'schedule', r.filter, r.steps, case when w = 6 then 'failed' else 'done' end, t.at, t.at,
          case when w = 6 then 0 else 2 + (w * 5) % 7 end, case when w = 6 then 0 else (w * 3) % 5 end, 0, 0,
          case when w = 6 then 'The worker that ran it stopped without a word. It runs again when it is time.' end
        from routine r
        cross join generate_series(1, 12) w
        cross join lateral (
          select date_trunc('week', now()) - make_interval(weeks => w) + interval '3 hours' as at
        ) t
        where r.starts ->> 'on' = 'schedule'`,
    );
    await client.query('commit');
    // All of it came at once: until the database has looked at what it holds, filters of policies take it seconds each.
    await client.query('analyze');
  } finally {
    await client.end();
  }
}

/**
 * How coverage came to be what it is today, over ninety days: a campaign for owners and descriptions, lineage that came with the pipelines, a week in which no source was
 * read, certifications only of late.
 */
export async function makePastFigures(databaseUrl: string): Promise<void> {
  const client = new pg.Client(databaseUrl);
  await client.connect();
  try {
    await client.query('begin');
    await client.query(`
      insert into coverage_day (day, at)
      select current_date - d, (current_date - d) + interval '23 hours'
      from generate_series(1, 90) d
      on conflict do nothing`);
    await client.query(`
      insert into coverage_span (by, key, domain_id, from_day, until_day, assets, met)
      select
        s.by, s.key, s.domain_id, current_date - d, current_date - (d - 2), greatest(0, round(s.assets * (1 - d * 0.0008)))::int,
        coalesce(
          (
            select jsonb_object_agg(f.key, round((case when f.key in ('bytes', 'unusedBytes') then 1 else 1 - d * 0.0008 end) * f.value::float8 * greatest(0, case f.key
              when 'owned' then 1 - d * (0.004 + n.pace)
              when 'described' then case when d > 40 then 0.45 - (d - 40) * 0.004 else 1 - d * 0.01375 end
              when 'terms' then 1 - d * (0.006 + n.pace)
              when 'classified' then case when d > 62 then 0.4 when d > 20 then 0.8 else 1 end
              when 'levelled' then case when d > 62 then 0.4 when d > 20 then 0.8 else 1 end
              when 'relied' then 1 - d * (0.0075 + n.pace / 2)
              when 'certified' then case when d > 34 then 0 else 1 - d * 0.026 end
              when 'lineage' then case when d > 56 then 0.25 when d > 28 then 0.6 else 1 end
              when 'fresh' then case when d between 60 and 65 then 0 else 1 end
              when 'used' then 1 - d * 0.002
              when 'bytes' then 1 - d * 0.0022
              else 1 - d * 0.0035
            end)))
            from jsonb_each_text(s.met) f
          ),
          '{}'
        )
      from coverage_span s
      cross join lateral (select (abs(hashtext(s.domain_id::text)) % 30) / 10000.0 as pace) n
      cross join generate_series(2, 90, 2) d
      where s.until_day is null and s.from_day = current_date`);
    await client.query('update coverage_target set since = current_date - 60, by_day = by_day');
    await client.query('commit');
    await client.query('analyze coverage_span');
  } finally {
    await client.end();
  }
}
