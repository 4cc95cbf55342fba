import type { Cause, CausesAnswer } from '@idrel/contract/lineage';
import { type CauseKind, dueAgain, inOrder, type Reached, reachable } from '@idrel/core/lineage';
import { getAsset, kindsSql, pathOf } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { stepsFrom } from './around.ts';
import { presentEdges } from './present.ts';

/** So many assets upstream are looked at, the nearest; and so many causes are told. */
const [LOOKED_MOST, TOLD_MOST] = [500, 200];
/** By so many ends it is told whether a flow is late. */
const ENDS = 12;

interface Seen {
  readonly id: string;
  readonly assetKind: Cause['asset']['kind'];
  readonly path: string;
  readonly source: string;
  /** Where it is seen in a picture: of a column its table. */
  readonly tableId: string;
}
/** Something that happened to an asset. */
interface Found {
  readonly id: string;
  readonly happened: CauseKind;
  readonly at: Date | string | null;
  readonly what: string;
  /** Where it is not one of those that lineage leads to, but a column of one. */
  readonly itself?: Seen;
}
const DAY = 86_400_000;

const seenOf = (db: Db, who: Who, ids: readonly string[]): Promise<Seen[]> =>
  db.rows<Seen>(
    `
      select a.id, a.kind as "assetKind", ${pathOf('a', 's')} as path, s.name as source, seen_in(a.kind, a.id, a.parent_id) as "tableId"
      from asset a
      join source s on s.id = a.source_id
      where a.id = any($1::uuid[]) and ${isSeen('a', '$2')}`,
    [ids, who.domainsAs('reader')],
  );

/** Flows that write some tables, with which of them. */
const flowsInto = (db: Db, who: Who, tables: readonly string[]): Promise<{ id: string; into: string[] }[]> =>
  db.rows<{ id: string; into: string[] }>(
    `
      select a.id, array_agg(distinct x.to_id) as into
      from lineage_feed x
      join flow f on f.id = x.flow_id
      join asset a on a.id = f.asset_id and a.kind in (${kindsSql('runs')})
      where x.to_id = any($1::uuid[]) and a.gone_at is null and ${isSeen('a', '$2')}
      group by a.id`,
    [tables, who.domainsAs('reader')],
  );

interface LastRun {
  readonly id: string;
  readonly state: string;
  readonly at: Date;
  readonly message: string | null;
  readonly failed: { of: string; what: string }[];
  readonly ends: (string | Date)[];
}
/** The last run of each flow, and when those that went well ended. */
const lastRuns = (db: Db, flows: readonly string[]): Promise<LastRun[]> =>
  db.rows<LastRun>(
    `
      select
        f.id, r.state, r.at, r.message,
        coalesce((select jsonb_agg(c) from jsonb_array_elements(r.checks) c where not (c ->> 'passed')::boolean), '[]') as failed,
        array(
          select e.ended
          from flow_run e
          where e.asset_id = f.id and e.state = 'done' and e.ended is not null
          order by e.at desc
          limit ${ENDS}
        ) as ends
      from unnest($1::uuid[]) f(id)
      cross join lateral (
        select state, at, message, checks
        from flow_run
        where asset_id = f.id
        order by at desc nulls last
        limit 1
      ) r`,
    [flows],
  );

function ofRuns(runs: readonly LastRun[], since: number, now: number): Found[] {
  return runs.flatMap(({ id, state, at, message, failed, ends }): Found[] => {
    const found: Found[] = [];
    if (state === 'failed' && at.getTime() >= since)
      found.push({ id, happened: 'failed run', at, what: message ?? 'Its last run failed; why was not told.' });
    if (failed.length > 0 && at.getTime() >= since)
      found.push({
        id,
        happened: 'failed check',
        at,
        what: failed.map(({ of, what }) => `${what} does not hold for ${of}`).join('; '),
      });
    const times = ends.map((end) => new Date(end).getTime());
    const due = dueAgain(times);
    if (state !== 'failed' && due !== null && due < now && Math.max(...times) >= since)
      found.push({
        id,
        happened: 'late run',
        at: new Date(due),
        what: `Should have ended again by then; ended last ${new Date(Math.max(...times)).toISOString().slice(0, 16).replace('T', ' ')} UTC.`,
      });
    return found;
  });
}

/** What scans found different in some assets, and in columns of some tables. */
const changesOf = async (
  db: Db,
  who: Who,
  ids: readonly string[],
  tables: readonly string[],
  days: number,
): Promise<Found[]> => {
  const rows = await db.rows<Found & Seen>(
    `
      select distinct on (c.asset_id)
        a.id, a.kind as "assetKind", ${pathOf('a', 's')} as path, s.name as source,
        seen_in(a.kind, a.id, a.parent_id) as "tableId",
        case c.change when 'gone' then 'gone' else 'changed' end as happened, r.ended_at as at,
        case c.change when 'gone' then 'It is gone from its source.' else array_to_string(c.what, '; ') end as what
      from asset a
      join source s on s.id = a.source_id
      join run_change c on c.asset_id = a.id
      join scan_run r on r.id = c.run_id
      where (a.id = any($1::uuid[]) or a.kind = 'column' and a.parent_id = any($2::uuid[]))
        and ${isSeen('a', '$4')} and c.change in ('changed', 'gone') and r.ended_at > now() - $3 * interval '1 day'
      order by c.asset_id, r.ended_at desc`,
    [ids, tables, days, who.domainsAs('reader')],
  );
  return rows.map(({ happened, at, what, ...itself }) => ({ id: itself.id, happened, at, what, itself }));
};

/** What people warn of. */
const warningsOf = (db: Db, ids: readonly string[]): Promise<Found[]> =>
  db.rows<Found>(
    `
      select asset_id as id, 'notice' as happened, null::timestamptz as at, kind || ': ' || text as what
      from notice
      where asset_id = any($1::uuid[]) and holds and removed_at is null and kind in ('caution', 'stop')
      union all
      select a.id, 'retiring', null, 'It is to be retired' || coalesce(' on ' || r.on_day::text, '') || '.'
      from asset a
      left join retirement r on r.asset_id = a.id
      where a.id = any($1::uuid[]) and a.standing = 'retiring'`,
    [ids],
  );

/** What can be behind a figure that looks wrong: what happened to all that it comes from, and to the flows that bring it, in the order of likelihood. */
export async function causesOf(db: Db, who: Who, assetId: string, days: number): Promise<CausesAnswer> {
  const asset = await getAsset(db, who, assetId);
  const steps = await stepsFrom(presentEdges(db), asset, 'upstream');
  const all: Reached[] = [{ id: asset.id, distance: 0, path: [asset.id] }, ...reachable(steps, asset.id, 'upstream')];
  const near = all.slice(0, LOOKED_MOST);
  /** How far away everything is that something can have happened to. */
  const reached = new Map(near.map((one) => [one.id, one]));
  const seen = new Map((await seenOf(db, who, [...reached.keys()])).map((one) => [one.id, one]));
  const looked = seen.size;
  // What feeds the table of a column, or is said of it, concerns the column.
  for (const one of near) {
    const tableId = seen.get(one.id)?.tableId;
    if (tableId !== undefined && !reached.has(tableId)) reached.set(tableId, one);
  }
  const tables = [...new Set([...seen.values()].map(({ tableId }) => tableId))];
  const flows = await flowsInto(db, who, tables);
  for (const { into, ...flow } of flows) {
    const [to] = into.flatMap((id) => reached.get(id) ?? []).sort((a, b) => a.distance - b.distance);
    if (to && !reached.has(flow.id))
      reached.set(flow.id, { id: flow.id, distance: to.distance + 1, path: [...to.path, flow.id] });
  }
  const others = [...tables.filter((id) => !seen.has(id)), ...flows.map(({ id }) => id)];
  for (const one of await seenOf(db, who, others)) seen.set(one.id, one);
  const now = Date.now();
  const [runs, changes, warnings] = await Promise.all([
    lastRuns(
      db,
      [...seen.values()].filter((one) => one.assetKind === 'flow').map(({ id }) => id),
    ),
    changesOf(db, who, [...seen.keys()], asset.kind === 'column' ? [] : tables, days),
    warningsOf(db, [...seen.keys()]),
  ]);
  const found = [...ofRuns(runs, now - days * DAY, now), ...changes, ...warnings];
  const causes = found.flatMap((one) => {
    const where = one.itself ?? seen.get(one.id);
    const way = reached.get(one.id) ?? reached.get(where?.tableId ?? '');
    if (!where || !way) return [];
    return [
      {
        kind: one.happened,
        asset: { id: where.id, kind: where.assetKind, path: where.path, source: where.source },
        at: one.at === null ? null : new Date(one.at).getTime(),
        what: one.what,
        distance: way.distance,
        way: [...way.path].reverse().map((id) => seen.get(id)?.path ?? 'an asset you may not see'),
      },
    ];
  });
  return {
    asset: { id: asset.id, kind: asset.kind, path: asset.path },
    causes: inOrder(causes, now)
      .slice(0, TOLD_MOST)
      .map(({ at, ...one }) => ({ ...one, at: at === null ? null : new Date(at).toISOString() })),
    looked: { assets: looked, flows: flows.length, hidden: near.length - looked, more: all.length - near.length },
  };
}
