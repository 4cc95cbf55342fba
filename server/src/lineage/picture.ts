import type { LineageAnswer, LineageColumn, LineageColumns, LineageFlow, LineageNode } from '@idrel/contract/lineage';
import { PICTURE_MOST, PICTURE_WITH_COLUMNS, reachable, VALUE_KINDS } from '@idrel/core/lineage';
import { isKindThat } from '@idrel/core/things';
import { FROM, getAsset, NOTICES, PATH, READ } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { type Edges, type FlowEnds, seenIn, stepsFrom } from './around.ts';
import { type Moments, pastEdges } from './past.ts';
import { presentEdges } from './present.ts';
import { type Direction, type StepsAt, walk } from './walk.ts';

/** A remark about a statement, in words; `p` is what is kept of it. */
const PROBLEM = "coalesce('line ' || (x.p ->> 'line') || ': ', '') || (x.p ->> 'reason')";

/** What of the tables around an asset is asked for. */
export interface AskedPicture {
  /** Steps */
  readonly upstream: number;
  readonly downstream: number;
  /** Left out or null: as they stand now. */
  readonly moments?: Moments | null;
  /** Only what lies on the way of this column's values is shown, however many steps away. */
  readonly column?: string | undefined;
  /** Columns are told however many the tables are. */
  readonly whole?: boolean;
}

const edgesAt = (db: Db, moments: Moments | null): Edges => (moments ? pastEdges(db, moments) : presentEdges(db));
const VALUES: ReadonlySet<string | null> = new Set(VALUE_KINDS);

interface Distant {
  readonly id: string;
  readonly distance: number;
}
/** The nearest first; of those as far away as each other always the same ones. */
const nearer = (a: Distant, b: Distant): number => a.distance - b.distance || (a.id < b.id ? -1 : 1);

/** The tables on the way of a column's values, nearest first; `own` is left out. */
async function tablesOnWay(db: Db, edges: Edges, column: string, own: string): Promise<string[]> {
  const carried: StepsAt = async (ids, direction) =>
    (await edges.columns(ids, direction)).filter(({ edge }) => VALUES.has(edge));
  const rings = await Promise.all(
    (['upstream', 'downstream'] as const).map(async (direction) =>
      reachable(
        await walk(carried, [column], direction, Number.POSITIVE_INFINITY, PICTURE_MOST * 10),
        column,
        direction,
      ),
    ),
  );
  const reached = [{ id: column, distance: 0 }, ...rings.flat()].sort(nearer);
  const seen = await db.rows<{ id: string; table: string }>(
    `select a.id, ${seenIn('a')} as "table" from asset a where a.id = any($1::uuid[])`,
    [reached.map(({ id }) => id)],
  );
  const tableOf = new Map(seen.map(({ id, table }) => [id, table]));
  const tables = new Set(reached.flatMap(({ id }) => tableOf.get(id) ?? []));
  tables.delete(own);
  return [...tables];
}

/** The tables around an asset, with the edges between their columns; of very many, between the tables alone. */
export async function lineagePicture(
  db: Db,
  who: Who,
  focusId: string,
  { upstream, downstream, moments = null, column, whole = false }: AskedPicture,
): Promise<LineageAnswer> {
  const edges = edgesAt(db, moments);
  const focus = await getAsset(db, who, focusId);
  const table = focus.kind === 'column' && focus.parentId ? focus.parentId : focusId;
  const start = { id: table, kind: focus.kind === 'column' ? ('table' as const) : focus.kind };
  const within = async (direction: Direction, most: number) =>
    reachable(await stepsFrom(edges, start, direction, most, PICTURE_MOST), table, direction);
  const around = async (): Promise<string[]> => {
    const rings = await Promise.all([within('upstream', upstream), within('downstream', downstream)]);
    const nearest = rings.flat().sort(nearer);
    return [...new Set(nearest.map(({ id }) => id))];
  };
  if (column !== undefined) await getAsset(db, who, column);
  const met = column === undefined ? await around() : await tablesOnWay(db, edges, column, table);
  const taken = met.slice(0, column === undefined ? PICTURE_MOST : PICTURE_WITH_COLUMNS);
  const coarse = !whole && taken.length > PICTURE_WITH_COLUMNS;
  // A flow stands between its tables.
  const ids = isKindThat('runs', focus.kind) ? taken : [table, ...taken];
  const [known, columns] = await Promise.all([
    readNodes(db, who, ids, moments),
    coarse ? [] : readColumns(db, ids, moments),
  ]);
  const columnsOf = byTable(columns);
  const place = new Map(ids.map((id, at) => [id, at]));
  const nodes = known
    .map((node) => ({ ...node, columns: columnsOf.get(node.id) ?? [] }))
    .sort((a, b) => (place.get(a.id) ?? 0) - (place.get(b.id) ?? 0));
  const shown = new Set(nodes.map((node) => node.id));
  // None of these needs another's answer.
  const [upwards, downwards, links, influences, flows, sources] = await Promise.all([
    edges.tables([...shown], 'upstream'),
    edges.tables([...shown], 'downstream'),
    coarse ? edges.tableLinks([...shown]) : edges.links([...shown], [...shown]),
    coarse ? edges.tableInfluences([...shown]) : edges.influences([...shown]),
    edges.flows([...shown], isKindThat('runs', focus.kind) ? focusId : null).then((ends) => readFlows(db, who, ends)),
    db.rows<LineageAnswer['sources'][number]>(
      `select s.name, ${READ} as "readAt" from source s where s.id = any($1::uuid[]) order by s.name`,
      [[...new Set(nodes.map(({ sourceId }) => sourceId))]],
    ),
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
    sources,
    coarse,
    nearest:
      met.length > taken.length || (met.length >= PICTURE_MOST && outside.upstream.size + outside.downstream.size > 0),
  };
}

/** The columns of some tables of a picture, and the edges between them and what else stands in it. */
export async function pictureColumns(
  db: Db,
  who: Who,
  { tables, among }: { readonly tables: readonly string[]; readonly among: readonly string[] },
  moments: Moments | null,
): Promise<LineageColumns> {
  const visible = await db.rows<{ id: string }>(
    `select id from asset where id = any($1::uuid[]) and ${isSeen('asset', '$2')}`,
    [[...tables, ...among], who.domainsAs('reader')],
  );
  const may = new Set(visible.map(({ id }) => id));
  const those = tables.filter((id) => may.has(id));
  const [columns, links] = await Promise.all([
    readColumns(db, those, moments),
    edgesAt(db, moments).links(those, [...may]),
  ]);
  const columnsOf = byTable(columns);
  const flows = await readFlows(
    db,
    who,
    [...new Set(links.flatMap(({ flow }) => flow ?? []))].map((id) => ({ id, from: [], to: [] })),
  );
  const shown = new Set(flows.filter(({ kind }) => isKindThat('runs', kind)).map(({ id }) => id));
  return {
    tables: those.map((id) => ({ id, columns: columnsOf.get(id) ?? [] })),
    links: links.map((link) => (link.flow !== null && shown.has(link.flow) ? link : { ...link, flow: null })),
  };
}

/** Columns by the table that they belong to, in their order. */
function byTable(columns: readonly ColumnOfTable[]): Map<string, LineageColumn[]> {
  const found = new Map<string, LineageColumn[]>();
  for (const { tableId, ...column } of columns) {
    const known = found.get(tableId);
    if (known) known.push(column);
    else found.set(tableId, [column]);
  }
  return found;
}

/** What is known of the flows of a picture. */
async function readFlows(db: Db, who: Who, ends: readonly FlowEnds[]): Promise<LineageFlow[]> {
  const known = await db.rows<Omit<LineageFlow, 'from' | 'to'>>(
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
        ) as "lastRun"
      from ${FROM}
      left join flow f on f.asset_id = a.id
      left join lateral (select ${PROBLEM} as problem from jsonb_array_elements(f.problems) x(p)) p on true
      where a.id = any($1::uuid[]) and ${isSeen('a', '$2')}
      group by a.id, s.id
      order by a.name`,
    [ends.map(({ id }) => id), who.domainsAs('reader')],
  );
  const byId = new Map(ends.map((flow) => [flow.id, flow]));
  return known.flatMap((flow) => {
    const { from = [], to = [] } = byId.get(flow.id) ?? {};
    return [{ ...flow, from: [...from], to: [...to] }];
  });
}

/** Which assets `asset` stand in a picture: what went after the earlier of its moments was there at it; what came after the later one was not there. */
const there = (asset: string, goneAfter: string, seenBy: string): string =>
  `(${asset}.gone_at is null or ${asset}.gone_at > ${goneAfter}::timestamptz) and ${asset}.first_seen <= ${seenBy}::timestamptz`;
const spanOf = (moments: Moments | null): readonly [goneAfter: string | null, seenBy: string] => [
  moments && (moments.before ?? moments.at ?? 'infinity'),
  moments?.at ?? 'infinity',
];

/**
 * What is known of the tables of a picture. In a picture of the past those stand as well that were there then and are gone.
 * @param moments null: now
 */
function readNodes(
  db: Db,
  who: Who,
  ids: readonly string[],
  moments: Moments | null,
): Promise<Omit<LineageNode, 'columns' | 'more'>[]> {
  return db.rows<Omit<LineageNode, 'columns' | 'more'>>(
    `
      select
        a.id, a.kind, a.name, ${PATH} as path, a.source_id as "sourceId", s.name as source, d.name as domain, a.standing, a.level, ${NOTICES} as notices, a.gone_at as "goneAt",
        (select count(*)::int from asset c where c.parent_id = a.id and c.kind = 'column' and ${there('c', '$3', '$4')}) as "columnCount",
        fl.statement, array(select ${PROBLEM} from jsonb_array_elements(fl.problems) x(p)) as problems
      from ${FROM}
      left join lateral (
        select f.statement, f.problems
        from flow f
        where f.asset_id = a.id
        order by f.statement = '', f.last_seen desc
        limit 1
      ) fl on true
      where a.id = any($1::uuid[]) and ${isSeen('a', '$2')} and ${there('a', '$3', '$4')}`,
    [ids, who.domainsAs('reader'), ...spanOf(moments)],
  );
}

type ColumnOfTable = LineageColumn & { tableId: string };

/** The columns of some tables, with the table that each belongs to. */
function readColumns(db: Db, tables: readonly string[], moments: Moments | null): Promise<ColumnOfTable[]> {
  return db.rows<ColumnOfTable>(
    `
      with columns as materialized (
        select a.id, a.name, a.native ->> 'type' as type, a.level, a.parent_id, a.position
        from asset a
        where a.parent_id = any($1::uuid[]) and a.kind = 'column' and ${there('a', '$2', '$3')}
      ),
      classed as (
        select k.asset_id as id, json_agg(distinct k.class_key) as classes
        from carried k
        where k.via <> 'inside' and k.asset_id in (select id from columns)
        group by 1
      )
      select c.id, c.name, c.type, coalesce(k.classes, '[]') as classes, c.level, c.parent_id as "tableId"
      from columns c
      left join classed k on k.id = c.id
      order by c.position, c.name`,
    [tables, ...spanOf(moments)],
  );
}
