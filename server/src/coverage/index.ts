import { type CoverageAnswer, type CoverageBy, type CoverageRow, coverageEndpoints, MEASURES } from '@idrel/contract/coverage';
import type { Router } from 'express';
import { Binder, FROM, filterToSql, quotedValue, readFilter, whereVisible } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
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
      down as (select id, name, 0 as depth, array[lower(name)] as place from domain where parent_id is null
        union all select d.id, d.name, down.depth + 1, down.place || lower(d.name) from domain d join down on d.parent_id = down.id),
      named as (select up.key, down.name, down.depth, row_number() over (order by down.place) as place from up join down on down.id = up.id)`,
  },
  source: { key: 's.name', rows: 'named as (select key, key as name, 0 as depth, row_number() over (order by lower(key)) as place from sums)' },
  kind: { key: 'a.kind', rows: 'named as (select key, key as name, 0 as depth, row_number() over (order by assets desc, key) as place from sums)' },
};

/** Figures about how well the assets that a person may see are governed. One look at the assets answers all measures. */
export async function coverage(db: Db, who: Who, by: CoverageBy): Promise<CoverageAnswer> {
  const binder = new Binder();
  const where = whereVisible(readFilter(''), who, binder);
  const flags = MEASURES.map((measure) => `(${filterToSql(readFilter(measure.filter), binder)})`);
  const counts = (sum: (index: number) => string) => `array[${MEASURES.map((_, index) => `${sum(index + 1)}::int`).join(', ')}]`;
  const { key, rows: named } = GROUPS[by];
  const counted = await db.rows<Counted>(
    `with recursive f as materialized (select ${key} as key, array[${flags.join(', ')}] as met from ${FROM} where ${where}),
       sums as materialized (select key, count(*)::int as assets, ${counts((index) => `count(*) filter (where met[${index}])`)} as counts from f group by key),
       ${named}
     select null as name, 0 as depth, coalesce(sum(assets), 0)::int as assets, ${counts((index) => `coalesce(sum(counts[${index}]), 0)`)} as counts, 0 as place from sums
     union all select n.name, n.depth, sum(s.assets)::int, ${counts((index) => `sum(s.counts[${index}])`)}, min(n.place) from sums s join named n on n.key = s.key group by n.name, n.depth order by place`,
    binder.values,
  );
  const asRow = (row: Counted): CoverageRow => ({
    name: row.name ?? 'All',
    depth: row.depth,
    filter: row.name === null ? '' : `${by}:${quotedValue(row.name)}`,
    assets: row.assets,
    counts: row.counts,
  });
  const rows = counted.filter((row) => row.name !== null).map(asRow);
  const all = asRow(counted.find((row) => row.name === null) as Counted);
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

export function coverageRoutes(router: Router, { db }: Context): void {
  serve(router, coverageEndpoints.read, ({ who, query }) => coverage(db, who, query.by as CoverageBy));
}
