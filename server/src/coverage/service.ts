import {
  type CoverageAnswer,
  type CoverageBy,
  type CoverageRow,
  LEVEL_MEASURES,
  type LevelReport,
  MEASURES,
  type Measure,
} from '@idrel/contract/coverage';
import { where as condition } from '@idrel/core/catalog';
import { Binder, FROM, filterToSql, readFilter, whereVisible } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';

interface Counted {
  name: string | null;
  depth: number;
  assets: number;
  counts: number[];
}

/** What each way of grouping needs, which row an asset counts for, and in which order the rows stand. Assets are counted first: there are far fewer sums. */
const GROUPS: Record<CoverageBy, { key: string; rows: string }> = {
  domain: {
    // An asset counts for its domain and for each one above it, as the filter `domain:` does.
    key: 'a.domain_id::text',
    rows: `up as (select d.id::text as key, d.id, d.parent_id from domain d union all select up.key, d.id, d.parent_id from domain d join up on up.parent_id = d.id),
      down as (select id, name, 0 as depth, array[lower(name)] as nth from domain where parent_id is null
        union all select d.id, d.name, down.depth + 1, down.nth || lower(d.name) from domain d join down on d.parent_id = down.id),
      named as (select up.key, down.name, down.depth, row_number() over (order by down.nth) as nth from up join down on down.id = up.id)`,
  },
  source: {
    key: 's.name',
    rows: 'named as (select key, key as name, 0 as depth, row_number() over (order by lower(key)) as nth from sums)',
  },
  kind: {
    key: 'a.kind',
    rows: 'named as (select key, key as name, 0 as depth, row_number() over (order by assets desc, key) as nth from sums)',
  },
};

/** Counts of the assets that a person may see, in rows. One look at the assets answers all measures. */
async function countBy(
  db: Db,
  who: Who,
  by: CoverageBy,
  measures: readonly Measure[],
): Promise<{ all: CoverageRow; rows: CoverageRow[] }> {
  const binder = new Binder();
  const where = whereVisible(readFilter(''), who, binder);
  const flags = measures.map((measure) => `(${filterToSql(readFilter(measure.filter), binder)})`);
  const counts = (sum: (index: number) => string) =>
    `array[${measures.map((_, index) => `${sum(index + 1)}::int`).join(', ')}]`;
  const { key, rows: named } = GROUPS[by];
  const counted = await db.rows<Counted>(
    `
      with recursive f as materialized (select ${key} as key, array[${flags.join(', ')}] as met from ${FROM} where ${where}),
      sums as materialized (
        select key, count(*)::int as assets, ${counts((index) => `count(*) filter (where met[${index}])`)} as counts
        from f
        group by key
      ),
      ${named}
      select
        null as name, 0 as depth, coalesce(sum(assets), 0)::int as assets,
        ${counts((index) => `coalesce(sum(counts[${index}]), 0)`)} as counts, 0 as nth
      from sums
      union all
      select n.name, n.depth, sum(s.assets)::int, ${counts((index) => `sum(s.counts[${index}])`)}, min(n.nth)
      from sums s
      join named n on n.key = s.key
      group by n.name, n.depth
      order by nth`,
    binder.values,
  );
  const asRow = (row: Counted): CoverageRow => ({
    name: row.name ?? 'All',
    depth: row.depth,
    filter: row.name === null ? '' : condition(by, row.name),
    assets: row.assets,
    counts: row.counts,
  });
  const rows = counted.filter((row) => row.name !== null).map(asRow);
  return { all: asRow(counted.find((row) => row.name === null) as Counted), rows };
}

/** Figures about how well the assets that a person may see are governed. */
export async function coverage(db: Db, who: Who, by: CoverageBy): Promise<CoverageAnswer> {
  const { all, rows } = await countBy(db, who, by, MEASURES);
  const nudges = rows
    .filter((row) => row.depth === Math.max(...rows.map((other) => other.depth)) || by !== 'domain')
    .flatMap((row) =>
      MEASURES.filter((measure) => measure.lack).map((measure) => ({
        lack: measure.lack ?? '',
        name: row.name,
        missing: row.assets - (row.counts[MEASURES.indexOf(measure)] ?? 0),
        filter: `${row.filter} not ${measure.filter}`,
      })),
    )
    .filter((nudge) => nudge.missing > 0)
    .sort((a, b) => b.missing - a.missing || a.name.localeCompare(b.name))
    .slice(0, 4);
  return { measures: MEASURES, all, rows, nudges };
}

const LEVELS_UP = [1, 2, 3, 4];

/** Levels of the assets that a person may see, in rows, and how many had which on each of the last days. */
export async function levelReport(db: Db, who: Who, by: CoverageBy, days: number): Promise<LevelReport> {
  const { all, rows } = await countBy(db, who, by, LEVEL_MEASURES);
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
