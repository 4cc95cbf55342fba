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

/** What each way of grouping joins to the assets found, and in which order its rows stand. */
const GROUPS: Record<CoverageBy, { from: string; order: string }> = {
  domain: {
    // An asset counts for its domain and for each one above it, as the filter `domain:` does.
    from: `join lateral (with recursive up as (select d.id, d.parent_id from domain d where d.id = f.domain_id union all select d.id, d.parent_id from domain d join up on up.parent_id = d.id) select id from up) u on true
       join (with recursive down as (select id, name, 0 as depth, array[lower(name)] as place from domain where parent_id is null
         union all select d.id, d.name, down.depth + 1, down.place || lower(d.name) from domain d join down on d.parent_id = down.id) select * from down) g on g.id = u.id`,
    order: 'min(g.place)',
  },
  source: { from: 'join lateral (select f.source as name, 0 as depth) g on true', order: 'lower(g.name)' },
  kind: { from: 'join lateral (select f.kind as name, 0 as depth) g on true', order: 'count(*) desc, g.name' },
};

/** Figures about how well the assets that a person may see are governed. One look at the assets answers all measures. */
export async function coverage(db: Db, who: Who, by: CoverageBy): Promise<CoverageAnswer> {
  const binder = new Binder();
  const where = whereVisible(readFilter(''), who, binder);
  const flags = MEASURES.map((measure) => `(${filterToSql(readFilter(measure.filter), binder)})`);
  const sums = flags.map((_, index) => `count(*) filter (where f.met[${index + 1}])::int`).join(', ');
  const { from, order } = GROUPS[by];
  const counted = await db.rows<Counted & { whole: boolean }>(
    `with f as materialized (select a.id, a.kind, a.domain_id, s.name as source, array[${flags.join(', ')}] as met from ${FROM} where ${where}),
       grouped as (select false as whole, g.name, g.depth, count(*)::int as assets, array[${sums}] as counts, row_number() over (order by ${order}) as place from f ${from} group by g.name, g.depth)
     select true as whole, null as name, 0 as depth, count(*)::int as assets, array[${sums}] as counts, 0 as place from f union all select * from grouped order by place`,
    binder.values,
  );
  const asRow = (row: Counted): CoverageRow => ({
    name: row.name ?? 'All',
    depth: row.depth,
    filter: row.name === null ? '' : `${by}:${quotedValue(row.name)}`,
    assets: row.assets,
    counts: row.counts,
  });
  const rows = counted.filter((row) => !row.whole).map(asRow);
  const all = asRow(counted.find((row) => row.whole) as Counted);
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
