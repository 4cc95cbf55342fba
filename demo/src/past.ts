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
