import { COURSES, type CourseAnswer, type KeptBy, MEASURES, MOST_ROWS, UNUSED } from '@idrel/contract/coverage';
import { both, where } from '@idrel/core/catalog';
import { type Change, courseOf, sampled } from '@idrel/core/coverage';
import { type FinderClient, readFilter } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { linesOf, type Within, withinDomain } from './lines.ts';

/** By what figures are kept; those of domains are the sums of those of their kinds. */
const DIMENSIONS = ['source', 'kind', 'level', 'owner'] as const;
type Dimension = (typeof DIMENSIONS)[number];
/** So many days a course has at most. */
const MOST_DAYS = 92;
/** Figures are kept so often; what was kept last on a day stands. */
const KEPT_EVERY = '1 hour';

interface Figures {
  readonly by: Dimension;
  readonly key: string;
  readonly domain: string;
  readonly assets: number;
  readonly met: Readonly<Record<string, number>>;
}

/** Figures of all assets as they are now. */
async function figuresNow(db: Db, finder: FinderClient): Promise<Figures[]> {
  const domains = (await db.rows<{ id: string }>('select id from domain')).map(({ id }) => id);
  const filters = [...MEASURES.map(({ filter }) => filter), UNUSED].map(readFilter);
  const found: Figures[] = [];
  for (const by of DIMENSIONS)
    for (const one of await finder.measure({ filter: readFilter(''), domains }, by, filters)) {
      const figures: [string, number][] = [
        ...MEASURES.map(({ key }, nth): [string, number] => [key, one.met[nth] ?? 0]),
        ['bytes', one.bytes],
        ['unusedBytes', one.metBytes[MEASURES.length] ?? 0],
      ];
      const met = Object.fromEntries(figures.filter(([, value]) => value > 0));
      found.push({ by, key: one.value, domain: one.domain, assets: one.assets, met });
    }
  return found;
}

/** Keeps the figures of today: what is as it was goes on, what is not begins anew. */
export async function keepFigures(db: Database, finder: FinderClient): Promise<{ day: string; at: string }> {
  const figures = await figuresNow(db, finder);
  return db.transaction(async (tx) => {
    await tx.run("select pg_advisory_xact_lock(hashtextextended('coverage', 0))");
    await tx.run('drop table if exists figures_now');
    await tx.run(
      `
        create temporary table figures_now on commit drop as
        select f.by, f.key, d.id as domain_id, f.assets, f.met
        from jsonb_to_recordset($1::jsonb) f(by text, key text, domain uuid, assets integer, met jsonb)
        join domain d on d.id = f.domain`,
      [JSON.stringify(figures)],
    );
    const asNow = `
      exists (
        select from figures_now f
        where (f.by, f.key, f.domain_id, f.assets, f.met) = (s.by, s.key, s.domain_id, s.assets, s.met)
      )`;
    await tx.run(
      `delete from coverage_span s where s.until_day is null and s.from_day = current_date and not ${asNow}`,
    );
    await tx.run(`update coverage_span s set until_day = current_date where s.until_day is null and not ${asNow}`);
    await tx.run(`
      insert into coverage_span (by, key, domain_id, from_day, assets, met)
      select f.by, f.key, f.domain_id, current_date, f.assets, f.met
      from figures_now f
      where not exists (
        select from coverage_span s
        where s.until_day is null and (s.by, s.key, s.domain_id) = (f.by, f.key, f.domain_id)
      )`);
    const kept = await tx.one<{ day: string; at: string }>(`
      insert into coverage_day (day) values (current_date)
      on conflict (day) do update set at = now()
      returning to_char(day, 'YYYY-MM-DD') as day, at`);
    return kept as { day: string; at: string };
  });
}

/** Keeps the figures where that was not done for a while, by any server. @returns whether it did */
export async function keepFiguresInTime(db: Database, finder: FinderClient): Promise<boolean> {
  const kept = await db.one<{ recent: boolean }>(
    `select coalesce(max(at) > now() - interval '${KEPT_EVERY}', false) as recent from coverage_day`,
  );
  if (kept?.recent) return false;
  await keepFigures(db, finder);
  return true;
}

/** The days of which figures are known, and when they were kept last. @param days back from the last of them */
export async function daysKept(db: Db, days: number): Promise<{ days: string[]; at: string | null }> {
  const kept = await db.one<{ first: string | null; last: string; at: string | null }>(
    `
      select
        to_char(greatest(min(day), max(day) - ($1::int - 1)), 'YYYY-MM-DD') as first, to_char(max(day), 'YYYY-MM-DD') as last,
        (select d.at from coverage_day d order by d.day desc limit 1) as at
      from coverage_day`,
    [days],
  );
  return kept?.first
    ? { days: sampled(kept.first, kept.last, Math.min(MOST_DAYS, days)), at: kept.at }
    : { days: [], at: null };
}

/** The part of the figures that is asked for. */
interface Part {
  /** Ids of the domains of which they are. */
  readonly domains: readonly string[];
  /** The days on which they are told, in their order. */
  readonly days: readonly string[];
}

/**
 * Spans of a part, and by how much each figure changed until which of its days, by number. What began and ended between two of them is on none. $1 dimension, $2
 * domains, $3 days.
 */
const CHANGES = `
  with mine as materialized (
    select
      s.key, s.domain_id, s.assets, s.met, width_bucket(s.from_day - 1, $3::date[]) as begins,
      coalesce(width_bucket(s.until_day - 1, $3::date[]), cardinality($3::date[])) as ends
    from coverage_span s
    where s.by = $1 and s.domain_id = any($2::uuid[]) and s.from_day <= ($3::date[])[cardinality($3::date[])]
      and coalesce(s.until_day, 'infinity') > ($3::date[])[1]
  ),
  changes as (
    select key, domain_id, begins as nth, 1 as sign, assets, met
    from mine
    where begins < ends
    union all
    select key, domain_id, ends, -1, assets, met
    from mine
    where begins < ends and ends < cardinality($3::date[])
  )`;

/** How the number of assets, and one figure, changed: row by row. */
export async function changesOf(db: Db, by: KeptBy, figure: string, { domains, days }: Part): Promise<Change[]> {
  const rows = await db.rows<{ key: string; nth: number; assets: number; value: number }>(
    `
      ${CHANGES}
      select
        ${by === 'domain' ? 'domain_id::text' : 'key'} as key, nth, sum(sign * assets)::float8 as assets,
        sum(sign * coalesce((met ->> $4::text)::float8, 0)) as value
      from changes
      group by 1, 2`,
    [by === 'domain' ? 'kind' : by, domains, days, figure],
  );
  return rows.map(({ key, nth, assets, value }) => ({ key, day: days[nth] ?? '', by: [assets, value] }));
}

/** How all figures changed, all together; that of the assets is told as `assets`. @param each whether of each domain apart: keys are then the domain and the figure, with a space between */
export async function allChanges(db: Db, { domains, days }: Part, each = false): Promise<Change[]> {
  const rows = await db.rows<{ key: string; nth: number; value: number }>(
    `
      ${CHANGES}
      select
        ${each ? "domain_id || ' ' || figure.key" : 'figure.key'} as key, nth, sum(sign * figure.value::float8) as value
      from changes
      cross join lateral (
        select key, value from jsonb_each_text(met)
        union all
        select 'assets', assets::text
      ) figure
      group by 1, 2`,
    ['kind', domains, days],
  );
  return rows.map(({ key, nth, value }) => ({ key, day: days[nth] ?? '', by: [value] }));
}

/** The domains in which somebody may read, of one and those below it where one is asked for. */
const readIn = (who: Who, within: Within | undefined): readonly string[] => {
  const read = who.domainsAs('reader');
  return within ? within.ids.filter((id) => read.includes(id)) : read;
};

/** How figures came to be, of the domains in which somebody may read. */
export async function course(
  db: Db,
  who: Who,
  ask: {
    readonly by: KeptBy;
    readonly measure: string;
    readonly days: number;
    readonly domain?: string | undefined;
  },
): Promise<CourseAnswer> {
  const within = ask.domain === undefined ? undefined : await withinDomain(db, ask.domain);
  const { days, at } = await daysKept(db, ask.days);
  if (days.length === 0)
    return { measures: MEASURES, measure: ask.measure, days: [], at: null, assets: [], all: [], rows: [] };
  const part: Part = { domains: readIn(who, within), days };
  const changes = await changesOf(db, ask.by, ask.measure, part);
  const { lines, countsFor } = await linesOf(db, ask.by, [...new Set(changes.map(({ key }) => key))].sort());
  const courses = courseOf(
    changes.flatMap((change) => countsFor(change.key).map((key) => ({ ...change, key }))),
    days,
    2,
  );
  const base = within ? where('domain', within.name) : '';
  const rows = lines.flatMap(({ key, name, depth, filter }) => {
    const own = courses.get(key);
    if (!own || (within && ask.by === 'domain' && !within.ids.includes(key))) return [];
    return [
      {
        key,
        name,
        depth,
        filter: both(base, filter),
        assets: own.map(([assets]) => assets ?? 0),
        met: own.map(([, met]) => met ?? 0),
      },
    ];
  });
  const whole = courseOf(await allChanges(db, part), days, 1);
  const of = (key: string) => whole.get(key)?.map(([value]) => value ?? 0) ?? days.map(() => 0);
  return {
    measures: MEASURES,
    measure: ask.measure,
    days,
    at,
    assets: of('assets'),
    all: COURSES.map((key) => ({ key, met: of(key) })),
    rows:
      rows.length > MOST_ROWS
        ? [...rows].sort((a, b) => (b.assets.at(-1) ?? 0) - (a.assets.at(-1) ?? 0)).slice(0, MOST_ROWS)
        : rows,
  };
}
