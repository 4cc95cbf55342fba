import type { LineageAnswer, LineageColumn, LineageFlow, LineageNode } from '@idrel/contract/lineage';
import { PICTURE_MOST, reachable } from '@idrel/core/lineage';
import { isKindThat } from '@idrel/core/things';
import { FROM, getAsset, NOTICES, PATH } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { type FlowEnds, stepsFrom } from './around.ts';
import { type Moments, pastEdges } from './past.ts';
import { presentEdges } from './present.ts';
import type { Direction } from './walk.ts';

/** A remark about a statement, in words; `p` is what is kept of it. */
const PROBLEM = "coalesce('line ' || (x.p ->> 'line') || ': ', '') || (x.p ->> 'reason')";

/**
 * The tables around an asset, so many steps up and down, with the edges between their columns.
 * @param moments null: as they stand now
 */
export async function lineagePicture(
  db: Db,
  who: Who,
  focusId: string,
  upstream: number,
  downstream: number,
  moments: Moments | null = null,
): Promise<LineageAnswer> {
  const edges = moments ? pastEdges(db, moments) : presentEdges(db);
  const focus = await getAsset(db, who, focusId);
  const table = focus.kind === 'column' && focus.parentId ? focus.parentId : focusId;
  const start = { id: table, kind: focus.kind === 'column' ? ('table' as const) : focus.kind };
  const within = async (direction: Direction, most: number) =>
    reachable(await stepsFrom(edges, start, direction, most, PICTURE_MOST), table, direction);
  const rings = await Promise.all([within('upstream', upstream), within('downstream', downstream)]);
  const around = rings.flat().sort((a, b) => a.distance - b.distance);
  const met = around.slice(0, PICTURE_MOST).map((reached) => reached.id);
  // A flow stands between its tables.
  const nodes = await readNodes(db, who, isKindThat('runs', focus.kind) ? met : [table, ...met], moments);
  const shown = new Set(nodes.map((node) => node.id));
  // None of these needs another's answer.
  const [upwards, downwards, links, influences, flows] = await Promise.all([
    edges.tables([...shown], 'upstream'),
    edges.tables([...shown], 'downstream'),
    edges.links([...shown]),
    edges.influences([...shown]),
    edges.flows([...shown], isKindThat('runs', focus.kind) ? focusId : null).then((ends) => readFlows(db, who, ends)),
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
      where a.id = any($1::uuid[]) and a.domain_id = any($2::uuid[])
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

/**
 * What is known of the tables of a picture, with their columns. In a picture of the past those stand as well that were there then and are gone.
 * @param moments null: now
 */
async function readNodes(db: Db, who: Who, ids: readonly string[], moments: Moments | null): Promise<LineageNode[]> {
  // What went after the earlier moment was there at it; what came after the later one was not there.
  const [goneAfter, seenBy] = [moments && (moments.before ?? moments.at ?? 'infinity'), moments?.at ?? 'infinity'];
  const there = (binds: readonly [string, string]) =>
    `(a.gone_at is null or a.gone_at > ${binds[0]}::timestamptz) and a.first_seen <= ${binds[1]}::timestamptz`;
  const asked = db.rows<Omit<LineageNode, 'columns' | 'more'>>(
    `
      select
        a.id, a.kind, a.name, ${PATH} as path, a.source_id as "sourceId", s.name as source, d.name as domain, a.standing, a.level, ${NOTICES} as notices, a.gone_at as "goneAt",
        fl.statement, array(select ${PROBLEM} from jsonb_array_elements(fl.problems) x(p)) as problems
      from ${FROM}
      left join lateral (
        select f.statement, f.problems
        from flow f
        where f.asset_id = a.id
        order by f.statement = '', f.last_seen desc
        limit 1
      ) fl on true
      where a.id = any($1::uuid[]) and a.domain_id = any($2::uuid[]) and ${there(['$3', '$4'])}`,
    [ids, who.domainsAs('reader'), goneAfter, seenBy],
  );
  const columnsAsked = db.rows<LineageColumn & { tableId: string }>(
    `
      with columns as materialized (
        select a.id, a.name, a.native ->> 'type' as type, a.level, a.parent_id, a.position
        from asset a
        where a.parent_id = any($1::uuid[]) and a.kind = 'column' and ${there(['$2', '$3'])}
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
      order by c.position`,
    [ids, goneAfter, seenBy],
  );
  const [nodes, columns] = await Promise.all([asked, columnsAsked]);
  const byTable = new Map<string, LineageColumn[]>();
  for (const { tableId, ...column } of columns) byTable.set(tableId, [...(byTable.get(tableId) ?? []), column]);
  return nodes.map((node) => ({ ...node, columns: byTable.get(node.id) ?? [], more: { upstream: 0, downstream: 0 } }));
}
