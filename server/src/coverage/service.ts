import {
  type CoverageAnswer,
  type CoverageBy,
  type CoverageRow,
  type GovernedBy,
  LEVEL_MEASURES,
  type LevelReport,
  MEASURES,
  type Measure,
} from '@idrel/contract/coverage';
import { where as condition, PRIORITIES, priorityGrade } from '@idrel/core/catalog';
import type { Measured } from '@idrel/core/catalog/finder';
import { type FinderClient, readFilter } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';

/** Where rows stand, and how far below others. */
interface Line {
  readonly id: string;
  readonly name: string;
  readonly depth: number;
}

/** The rows of a report, in their order, and for each value that is measured the rows that it counts for. */
async function linesOf(
  db: Db,
  by: GovernedBy,
  measured: readonly Measured[],
): Promise<{ lines: readonly Line[]; countsFor: (value: string) => readonly string[] }> {
  if (by === 'kind') {
    const lines = [...measured]
      .sort((a, b) => b.assets - a.assets || a.value.localeCompare(b.value))
      .map(({ value }) => ({ id: value, name: value, depth: 0 }));
    return { lines, countsFor: (value) => [value] };
  }
  if (by === 'priority') {
    const lines = [...PRIORITIES].reverse().map((name) => ({ id: name, name, depth: 0 }));
    return { lines, countsFor: (value) => [value] };
  }
  if (by === 'source') {
    const lines = await db.rows<Line>('select id, name, 0 as depth from source order by lower(name)');
    return { lines, countsFor: (value) => [value] };
  }
  const lines = await db.rows<Line & { parentId: string | null }>(`
    with recursive down as (
      select id, name, parent_id, 0 as depth, array[lower(name)] as nth
      from domain
      where parent_id is null
      union all
      select d.id, d.name, d.parent_id, down.depth + 1, down.nth || lower(d.name)
      from domain d
      join down on d.parent_id = down.id
    )
    select id, name, parent_id as "parentId", depth
    from down
    order by nth`);
  const holders = new Map(lines.map((line) => [line.id, line.parentId]));
  // An asset counts for its domain and for each one above it, as the filter `domain:` does.
  const countsFor = (value: string): string[] => {
    const above = holders.get(value);
    return above ? [value, ...countsFor(above)] : [value];
  };
  return { lines, countsFor };
}

/** Counts of the assets that a person may see, in rows. */
async function countBy(
  db: Db,
  finder: FinderClient,
  who: Who,
  by: GovernedBy,
  measures: readonly Measure[],
): Promise<{ all: CoverageRow; rows: CoverageRow[] }> {
  const ask = { filter: readFilter(''), domains: who.domainsAs('reader') };
  const measured = await finder.measure(
    ask,
    by,
    measures.map((measure) => readFilter(measure.filter)),
  );
  const { lines, countsFor } = await linesOf(db, by, measured);
  const sum = (part: readonly Measured[]) => ({
    assets: part.reduce((total, { assets }) => total + assets, 0),
    counts: measures.map((_, index) => part.reduce((total, { met }) => total + (met[index] ?? 0), 0)),
  });
  const rows = lines.flatMap(({ id, name, depth }) => {
    const part = measured.filter(({ value }) => countsFor(value).includes(id));
    return part.length > 0 ? [{ name, depth, filter: condition(by, name), ...sum(part) }] : [];
  });
  return { all: { name: 'All', depth: 0, filter: '', ...sum(measured) }, rows };
}

/** Figures about how well the assets that a person may see are governed. */
export async function coverage(db: Db, finder: FinderClient, who: Who, by: GovernedBy): Promise<CoverageAnswer> {
  const { all, rows } = await countBy(db, finder, who, by, MEASURES);
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
    // Of what matters more the lacks stand first, however few they are.
    .sort(
      (a, b) =>
        (by === 'priority' ? priorityGrade(b.name) - priorityGrade(a.name) : 0) ||
        b.missing - a.missing ||
        a.name.localeCompare(b.name),
    )
    .slice(0, 4);
  return { measures: MEASURES, all, rows, nudges };
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
