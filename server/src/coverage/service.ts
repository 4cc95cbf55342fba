import {
  type CoverageAnswer,
  type CoverageBy,
  type CoverageRow,
  type GovernedBy,
  LEVEL_MEASURES,
  type LevelReport,
  MEASURES,
  type Measure,
  MOST_ROWS,
  UNUSED,
} from '@idrel/contract/coverage';
import { both, priorityGrade, where } from '@idrel/core/catalog';
import type { Measured } from '@idrel/core/catalog/finder';
import { type FinderClient, readFilter } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { linesOf, withinDomain } from './lines.ts';

/** Counts of the assets that a person may see, in rows. @param domain only of this one and those below it */
async function countBy(
  db: Db,
  finder: FinderClient,
  who: Who,
  by: GovernedBy,
  measures: readonly Measure[],
  domain?: string,
): Promise<{ all: CoverageRow; rows: CoverageRow[]; more: number }> {
  const within = domain === undefined ? undefined : await withinDomain(db, domain);
  const base = within ? where('domain', within.name) : '';
  const measured = await finder.measure(
    { filter: readFilter(base), domains: who.domainsAs('reader') },
    by,
    [...measures.map((measure) => measure.filter), UNUSED].map(readFilter),
  );
  const sizes = new Map<string, number>();
  for (const { value, assets } of measured) sizes.set(value, (sizes.get(value) ?? 0) + assets);
  const present = [...sizes].sort(([a, n], [b, m]) => m - n || a.localeCompare(b)).map(([value]) => value);
  const { lines, countsFor } = await linesOf(db, by, present);
  const parts = new Map<string, Measured[]>();
  for (const one of measured) for (const key of countsFor(one.value)) parts.set(key, [...(parts.get(key) ?? []), one]);
  const sum = (part: readonly Measured[]) => {
    const total = (of: (one: Measured) => number) => part.reduce((sum, one) => sum + of(one), 0);
    return {
      assets: total(({ assets }) => assets),
      counts: measures.map((_, nth) => total(({ met }) => met[nth] ?? 0)),
      bytes: total(({ bytes }) => bytes),
      unusedBytes: total(({ metBytes }) => metBytes[measures.length] ?? 0),
    };
  };
  const rows = lines.flatMap(({ key, name, depth, filter }) => {
    const part = parts.get(key);
    // Of a domain that is looked into, those above it are no rows.
    if (!part || (within && by === 'domain' && !within.ids.includes(key))) return [];
    return [{ key, name, depth, filter: both(base, filter), ...sum(part) }];
  });
  const told = rows.length > MOST_ROWS ? [...rows].sort((a, b) => b.assets - a.assets).slice(0, MOST_ROWS) : rows;
  return {
    all: { key: '', name: within?.name ?? 'All', depth: 0, filter: base, ...sum(measured) },
    rows: told,
    more: rows.length - told.length,
  };
}

/** Figures about how well the assets that a person may see are governed. */
export async function coverage(
  db: Db,
  finder: FinderClient,
  who: Who,
  by: GovernedBy,
  domain?: string,
): Promise<CoverageAnswer> {
  const { all, rows, more } = await countBy(db, finder, who, by, MEASURES, domain);
  const nudges = rows
    .filter((row) => row.depth === Math.max(...rows.map((other) => other.depth)) || by !== 'domain')
    .flatMap((row) =>
      MEASURES.flatMap((measure, nth) =>
        measure.lack === undefined
          ? []
          : [
              {
                lack: measure.lack,
                name: row.name,
                missing: row.assets - (row.counts[nth] ?? 0),
                filter: `${row.filter} not ${measure.filter}`,
              },
            ],
      ),
    )
    .filter((nudge) => nudge.missing > 0)
    // Of what matters more the lacks stand first, however few they are.
    .sort(
      (a, b) =>
        (by === 'priority' ? priorityGrade(b.name) - priorityGrade(a.name) : 0) ||
        b.missing - a.missing ||
        a.name.localeCompare(b.name),
    )
    .slice(0, 4);
  return { measures: MEASURES, unused: UNUSED, all, rows, more, nudges };
}

const LEVELS_UP = [1, 2, 3, 4];

/** Levels of the assets that a person may see, in rows, and how many had which on each of the last days. */
export async function levelReport(
  db: Db,
  finder: FinderClient,
  who: Who,
  by: CoverageBy,
  days: number,
): Promise<LevelReport> {
  const { all, rows } = await countBy(db, finder, who, by, LEVEL_MEASURES);
  // What a source looked like on a day is what it looked like when its levels were last worked out until then.
  const kept = await db.rows<{ day: string; key: string; level: number; assets: number }>(
    `
      with recursive days as materialized (
        select d::date as day
        from generate_series(
          greatest(current_date - ($2::int - 1), (select min(day) from level_day)), current_date, interval '1 day'
        ) d
      ),
      here as (select distinct source_id, day from level_day),
      up as (
        select d.id as own, d.id, d.parent_id, d.name
        from domain d
        union all
        select up.own, d.id, d.parent_id, d.name
        from domain d
        join up on up.parent_id = d.id
      ),
      told as (
        select x.day, l.source_id, l.domain_id, l.kind, l.level, l.assets
        from days x
        join source s on true
        join lateral (select max(h.day) as day from here h where h.source_id = s.id and h.day <= x.day) last on last.day is not null
        join level_day l on l.source_id = s.id and l.day = last.day
        where l.domain_id = any($1::uuid[]) and l.kind <> 'column' and l.level > 0
      )
      select to_char(t.day, 'YYYY-MM-DD') as day, k.key, t.level, sum(t.assets)::int as assets
      from told t
      cross join lateral (
        select '' as key
        union all ${{ domain: 'select up.name from up where up.own = t.domain_id', source: 'select s.name from source s where s.id = t.source_id', kind: 'select t.kind' }[by]}
      ) k
      group by 1, 2, 3
      order by 1`,
    [who.domainsAs('reader'), days],
  );
  const known = [...new Set(kept.map((row) => row.day))];
  const at = new Map(kept.map((row) => [`${row.day} ${row.level} ${row.key}`, row.assets]));
  // The last day is today, as it is now.
  const trendOf = (key: string, { counts: [, ...now] }: CoverageRow) =>
    known.map((day, index) =>
      index === known.length - 1 ? now : LEVELS_UP.map((level) => at.get(`${day} ${level} ${key}`) ?? 0),
    );
  return {
    measures: LEVEL_MEASURES,
    all,
    rows,
    days: known,
    trends: [trendOf('', all), ...rows.map((row) => trendOf(row.name, row))],
  };
}
