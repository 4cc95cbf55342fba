import type {
  ImpactRow,
  LineageAnswer,
  LineageColumn,
  LineageFlow,
  LineageInfluence,
  LineageLink,
  LineageNode,
} from '@idrel/contract/lineage';
import type { AssetKind } from '@idrel/contract/things';
import { PICTURE_MOST, reachable, type Step } from '@idrel/core/lineage';
import { isKindThat } from '@idrel/core/things';
import { Binder, FROM, getAsset, kindsSql, NOTICES, PATH, pathOf, readFilter, whereVisible } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { type Direction, stepsAt, walk } from './walk.ts';

/** Where an asset is seen in a picture of tables: a column in its table, anything else as itself. */
const SEEN_IN = (asset: string) => `seen_in(${asset}.kind, ${asset}.id, ${asset}.parent_id)`;

/** A remark about a statement, in words; `p` is what is kept of it. */
const PROBLEM = "coalesce('line ' || (x.p ->> 'line') || ': ', '') || (x.p ->> 'reason')";

/** Flows between any of the tables in $1; those within one table among them. */
const BETWEEN = `
    select flow_id
    from lineage_feed
    where from_id = any($1::uuid[]) and to_id = any($1::uuid[])
    union
    select id
    from flow
    where asset_id = any($1::uuid[])`;

/** The tables around an asset, so many steps up and down, with the edges between their columns. */
export async function lineagePicture(
  db: Db,
  who: Who,
  focusId: string,
  upstream: number,
  downstream: number,
): Promise<LineageAnswer> {
  const focus = await getAsset(db, who, focusId);
  const table = focus.kind === 'column' && focus.parentId ? focus.parentId : focusId;
  const start = { id: table, kind: focus.kind === 'column' ? ('table' as const) : focus.kind };
  const within = async (direction: Direction, most: number) =>
    reachable(await stepsFrom(db, start, direction, most, PICTURE_MOST), table, direction);
  const rings = await Promise.all([within('upstream', upstream), within('downstream', downstream)]);
  const around = rings.flat().sort((a, b) => a.distance - b.distance);
  const met = around.slice(0, PICTURE_MOST).map((reached) => reached.id);
  // A flow stands between its tables.
  const nodes = await readNodes(db, who, isKindThat('runs', focus.kind) ? met : [table, ...met]);
  const shown = new Set(nodes.map((node) => node.id));
  // None of these needs another's answer.
  const [upwards, downwards, links, influences, flows] = await Promise.all([
    stepsAt(db, 'table', [...shown], 'upstream'),
    stepsAt(db, 'table', [...shown], 'downstream'),
    linksBetween(db, [...shown]),
    influencesBetween(db, [...shown]),
    flowsBetween(db, who, [...shown], isKindThat('runs', focus.kind) ? focusId : null),
  ]);
  const outside = { upstream: new Map<string, number>(), downstream: new Map<string, number>() };
  const count = (counts: Map<string, number>, here: string, there: string) => {
    if (!shown.has(there)) counts.set(here, (counts.get(here) ?? 0) + 1);
  };
  for (const { from, to } of upwards) count(outside.upstream, to, from);
  for (const { from, to } of downwards) count(outside.downstream, from, to);
  const moreOf = (id: string) => ({
    upstream: outside.upstream.get(id) ?? 0,
    downstream: outside.downstream.get(id) ?? 0,
  });
  const drawn = new Set(flows.map((flow) => flow.id));
  return {
    focus: focusId,
    nodes: nodes.map((node) => ({ ...node, more: moreOf(node.id) })),
    flows,
    links: links.map((link) => ({ ...link, flow: link.flow !== null && drawn.has(link.flow) ? link.flow : null })),
    influences,
  };
}

/** Which tables a flow that is an asset of its own reads, or writes. */
const endsOf = async (db: Db, flowId: string, direction: Direction): Promise<string[]> =>
  (
    await db.rows<{ id: string }>(
      `
        select distinct x.${direction === 'downstream' ? 'to_id' : 'from_id'} as id
        from flow f
        join lineage_feed x on x.flow_id = f.id
        where f.asset_id = $1`,
      [flowId],
    )
  ).map(({ id }) => id);

/** The steps around an asset; around a flow those to its tables, and on from there. */
export async function stepsFrom(
  db: Db,
  { id, kind }: { readonly id: string; readonly kind: AssetKind },
  direction: Direction,
  most?: number,
  enough?: number,
): Promise<Step<string | null>[]> {
  if (!isKindThat('runs', kind)) return walk(db, kind === 'column' ? 'column' : 'table', [id], direction, most, enough);
  if (most === 0) return [];
  const ends = await endsOf(db, id, direction);
  const first = ends.map((end) =>
    direction === 'downstream' ? { from: id, to: end, edge: null } : { from: end, to: id, edge: null },
  );
  return [...first, ...(await walk(db, 'table', ends, direction, most === undefined ? most : most - 1, enough))];
}

/** Flows that are assets of their own, between tables of a picture; and the one that it is about, whatever stands there. */
const flowsBetween = (db: Db, who: Who, tables: readonly string[], focus: string | null): Promise<LineageFlow[]> =>
  db.rows<LineageFlow>(
    `
      select
        a.id, a.kind, a.name, ${PATH} as path, a.source_id as "sourceId", s.name as source,
        max(f.statement) filter (where f.statement <> '') as statement,
        coalesce(jsonb_agg(distinct p.problem) filter (where p.problem is not null), '[]') as problems,
        (
          select json_build_object('state', r.state, 'at', r.at, 'message', r.message)
          from flow_run r
          where r.asset_id = a.id
          order by r.at desc nulls last
          limit 1
        ) as "lastRun",
        coalesce(array_agg(distinct x.from_id) filter (where x.from_id = any($1::uuid[])), '{}') as from,
        coalesce(array_agg(distinct x.to_id) filter (where x.to_id = any($1::uuid[])), '{}') as to
      from ${FROM}
      join flow f on f.asset_id = a.id
      left join lineage_feed x on x.flow_id = f.id
      left join lateral (select ${PROBLEM} as problem from jsonb_array_elements(f.problems) x(p)) p on true
      where a.kind in (${kindsSql('runs')}) and a.gone_at is null and a.domain_id = any($2::uuid[])
        and (
          a.id = $3
          or f.id in (
            select flow_id from lineage_feed where from_id = any($1::uuid[]) and to_id = any($1::uuid[])
          )
        )
      group by a.id, s.id
      order by a.name`,
    [tables, who.domainsAs('reader'), focus],
  );

const linksBetween = (db: Db, tables: readonly string[]): Promise<LineageLink[]> =>
  db.rows<LineageLink>(
    `select e.from_id as "from", e.to_id as "to", ${SEEN_IN('f')} as "fromTable", ${SEEN_IN('t')} as "toTable", e.kind,
        l.asset_id as flow, e.wrong, l.origin = 'by hand' as said
     from lineage_edge e
     join flow l on l.id = e.flow_id
     join asset f on f.id = e.from_id
     join asset t on t.id = e.to_id
     where e.flow_id = any(array(${BETWEEN}))
       and ${SEEN_IN('f')} = any($1::uuid[]) and ${SEEN_IN('t')} = any($1::uuid[])`,
    [tables],
  );

const influencesBetween = (db: Db, tables: readonly string[]): Promise<LineageInfluence[]> =>
  db.rows<LineageInfluence>(
    `select i.from_id as "from", ${SEEN_IN('c')} as "fromTable", i.to_id as "toTable", i.kind
     from lineage_influence i
     join asset c on c.id = i.from_id
     where i.flow_id = any(array(${BETWEEN})) and ${SEEN_IN('c')} = any($1::uuid[]) and i.to_id = any($1::uuid[])`,
    [tables],
  );

async function readNodes(db: Db, who: Who, ids: readonly string[]): Promise<LineageNode[]> {
  const asked = db.rows<Omit<LineageNode, 'columns' | 'more'>>(
    `
      select
        a.id, a.kind, a.name, ${PATH} as path, a.source_id as "sourceId", s.name as source, a.standing, a.level, ${NOTICES} as notices,
        fl.statement, array(select ${PROBLEM} from jsonb_array_elements(fl.problems) x(p)) as problems
      from ${FROM}
      left join lateral (
        select f.statement, f.problems
        from flow f
        where f.asset_id = a.id
        order by f.statement = '', f.last_seen desc
        limit 1
      ) fl on true
      where a.id = any($1::uuid[]) and a.domain_id = any($2::uuid[]) and a.gone_at is null`,
    [ids, who.domainsAs('reader')],
  );
  const columnsAsked = db.rows<LineageColumn & { tableId: string }>(
    `
      with columns as materialized (
        select a.id, a.name, a.native ->> 'type' as type, a.level, a.parent_id, a.position
        from asset a
        where a.parent_id = any($1::uuid[]) and a.kind = 'column' and a.gone_at is null
      ),
      classed as (
        select k.asset_id as id, json_agg(k.class_key order by k.class_key) as classes
        from carried k
        where k.via = 'itself' and k.asset_id in (select id from columns)
        group by 1
      )
      select c.id, c.name, c.type, coalesce(k.classes, '[]') as classes, c.level, c.parent_id as "tableId"
      from columns c
      left join classed k on k.id = c.id
      order by c.position`,
    [ids],
  );
  const [nodes, columns] = await Promise.all([asked, columnsAsked]);
  const byTable = new Map<string, LineageColumn[]>();
  for (const { tableId, ...column } of columns) byTable.set(tableId, [...(byTable.get(tableId) ?? []), column]);
  return nodes.map((node) => ({ ...node, columns: byTable.get(node.id) ?? [], more: { upstream: 0, downstream: 0 } }));
}

/** Everything downstream or upstream of an asset: for a column the columns that carry its value and the tables whose rows it decides. */
export async function impactList(
  db: Db,
  who: Who,
  assetId: string,
  direction: Direction,
  rule = '',
): Promise<ImpactRow[]> {
  const asset = await getAsset(db, who, assetId);
  const steps = await stepsFrom(db, asset, direction);
  const reached = reachable(steps, assetId, direction);
  const how = new Map(steps.map(({ from, to, edge }) => [`${from}>${to}`, edge]));
  const rows = await db.rows<{
    id: string;
    kind: AssetKind;
    name: string;
    path: string;
    source: string;
    level: number | null;
    standing: string;
    within: ImpactRow['within'];
    owners: string[];
  }>(
    `
      select
        a.id, a.kind, a.name, ${PATH} as path, s.name as source, a.level, a.standing,
        case when a.kind = 'column' then (
          select json_build_object('id', h.id, 'kind', h.kind, 'path', ${pathOf('h', 's')}, 'standing', h.standing)
          from asset h
          where h.id = a.parent_id
        ) end as within,
        coalesce(
          (
            select json_agg(p.name order by p.name)
            from asset_person ap
            join party p on p.id = ap.person_id
            where ap.role = 'owner' and ap.asset_id in (a.id, a.parent_id)
          ),
          '[]'
        ) as owners
      from ${FROM}
      where a.id = any($1::uuid[]) and a.domain_id = any($2::uuid[]) and a.gone_at is null`,
    [[assetId, ...reached.map((entry) => entry.id)], who.domainsAs('reader')],
  );
  const byId = new Map(rows.map((row) => [row.id, row]));
  const meant = rule.trim() === '' ? new Set<string>() : await foundBy(db, who, rule, rows);
  return reached.flatMap((entry): ImpactRow[] => {
    const row = byId.get(entry.id);
    if (!row) return [];
    const [last, here] = [entry.path.at(-2) ?? '', entry.id];
    const kind = how.get(direction === 'downstream' ? `${last}>${here}` : `${here}>${last}`);
    return [
      {
        ...row,
        matches: meant.has(row.id) || (row.within !== null && meant.has(row.within.id)),
        distance: entry.distance,
        way: entry.path.map((id) => byId.get(id)?.path ?? 'an asset you may not see'),
        how: kind ?? 'feeds',
      },
    ];
  });
}

/** Which of these, or of what they lie in, a filter finds. Columns are looked at only where it asks for them. */
async function foundBy(
  db: Db,
  who: Who,
  rule: string,
  rows: readonly { readonly id: string; readonly within: ImpactRow['within'] }[],
): Promise<Set<string>> {
  const binder = new Binder();
  const where = whereVisible(readFilter(rule), who, binder);
  const ids = [...new Set(rows.flatMap(({ id, within }) => (within ? [id, within.id] : [id])))];
  const found = await db.rows<{ id: string }>(
    `select a.id from ${FROM} where a.id = any(${binder.add(ids)}::uuid[]) and ${where}`,
    binder.values,
  );
  return new Set(found.map(({ id }) => id));
}
