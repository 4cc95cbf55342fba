import { INFLUENCE_KINDS, VALUE_KINDS } from '@idrel/core/lineage';
import {
  type FlowProblem,
  type FoundFlow,
  KEY_SEPARATOR,
  type RemoteColumn,
  type RemoteEdge,
  type RemoteInfluence,
  type RemoteTable,
  UNREAD_ASKED,
} from '@idrel/readers/connectors';
import type { Db } from '../platform/database.ts';
import type { RunResult } from './apply.ts';
import { storeRuns } from './flowRuns.ts';
import { completeIds } from './ids.ts';

/** What a run tells of flows, by the ids of the catalog. */
interface Told {
  readonly flows: {
    key: string;
    asset: string;
    kind: string;
    origin: string;
    statement: string;
    problems: readonly FlowProblem[];
    statements: number;
  }[];
  readonly edges: {
    flow: string;
    from: string;
    to: string;
    kind: string;
    line: number | null;
    expression: string | null;
  }[];
  readonly influences: { flow: string; from: string; to: string; kind: string }[];
  readonly remote: object[];
}

/**
 * Writes what flows do to values. Flows and edges are known by what they are: those that are told again stay as they are, those that are told no more
 * go, as far as the run looked; nothing is written that was so before.
 */
export async function storeFlows(
  tx: Db,
  source: { id: string },
  result: RunResult,
  ids: Map<string, string>,
): Promise<void> {
  const told = await toRows(tx, result.flows, ids);
  await keepFlows(tx, source.id, told.flows, result.covers);
  await keepRemote(tx, source.id, told);
  await tellEdges(tx, source.id, told.edges);
  await keepEdges(tx);
  await keepInfluences(tx, source.id, told);
  await storeRuns(
    tx,
    result.flows.flatMap(({ key, runs = [] }) => {
      const assetId = ids.get(key);
      return assetId ? [{ assetId, runs }] : [];
    }),
  );
}

async function toRows(tx: Db, flows: readonly FoundFlow[], ids: Map<string, string>): Promise<Told> {
  await completeIds(
    tx,
    ids,
    flows.flatMap((flow) => [
      flow.asset ?? flow.key,
      ...flow.edges.flatMap((edge) => [edge.from, edge.to]),
      ...flow.influences.flatMap(({ from, to }) => (to === undefined ? [from] : [from, to])),
      ...keysOf(flow.remote ?? []),
      ...keysOf(flow.remoteInfluences ?? []),
    ]),
  );
  const told: Told = { flows: [], edges: [], influences: [], remote: [] };
  const known = new Set<string>();
  for (const { key, kind, origin, statement, problems, statements = 1, ...flow } of flows) {
    const asset = ids.get(flow.asset ?? key);
    if (!asset) continue;
    // A flow that is told in several parts is one.
    if (!known.has(key)) told.flows.push({ key, asset, kind, origin, statement, problems, statements });
    known.add(key);
    for (const edge of flow.edges) {
      const [from, to] = [ids.get(edge.from), ids.get(edge.to)];
      if (from && to)
        told.edges.push({
          flow: key,
          from,
          to,
          kind: edge.kind,
          line: edge.line ?? null,
          expression: edge.expression ?? null,
        });
    }
    for (const influence of flow.influences) {
      const from = ids.get(influence.from);
      const to = influence.to === undefined ? asset : ids.get(influence.to);
      if (from && to) told.influences.push({ flow: key, from, to, kind: influence.kind });
    }
    for (const edge of [...(flow.remote ?? []), ...(flow.remoteInfluences ?? [])])
      if ([edge.from, edge.to].every((end) => typeof end !== 'string' || ids.has(end)))
        told.remote.push({
          flow: key,
          kind: edge.kind,
          line: 'line' in edge ? (edge.line ?? null) : null,
          expression: 'expression' in edge ? (edge.expression ?? null) : null,
          ...endOf('from', edge.from, ids),
          ...endOf('to', edge.to, ids),
        });
  }
  return told;
}

type End = RemoteColumn | RemoteTable | string;
const keysOf = (edges: readonly (RemoteEdge | RemoteInfluence)[]) =>
  edges.flatMap((edge) => [edge.from, edge.to]).filter((end): end is string => typeof end === 'string');
const endOf = (side: 'from' | 'to', end: End, ids: ReadonlyMap<string, string>) =>
  typeof end === 'string'
    ? { [`${side}_id`]: ids.get(end) ?? null }
    : {
        [`${side}_place`]: end.place,
        [`${side}_path`]: end.names.join(KEY_SEPARATOR),
        [`${side}_column`]: 'column' in end ? end.column : null,
      };

/** So long a statement is thought to be asked again: what counts them forgets, and some are asked once a month or a quarter. */
const ASKED_DAYS = 100;

async function keepFlows(
  tx: Db,
  sourceId: string,
  flows: Told['flows'],
  covers: (key: string) => boolean,
): Promise<void> {
  const now = new Set(flows.map((flow) => flow.key));
  const before = await tx.rows<{ id: string; key: string }>(
    `
      select id, key
      from flow
      where source_id = $1 and origin <> 'by hand' and (origin <> 'asked' or kind = $2 or last_seen < now() - interval '${ASKED_DAYS} days')`,
    [sourceId, UNREAD_ASKED],
  );
  await tx.run('delete from flow where id = any($1::uuid[])', [
    before.filter((flow) => !now.has(flow.key) && covers(flow.key)).map((flow) => flow.id),
  ]);
  await tx.run(
    `insert into flow (source_id, key, asset_id, kind, origin, statement, problems, statements)
     select $2, r.key, r.asset, r.kind, r.origin, r.statement, r.problems, r.statements
     from json_to_recordset($1::json) as r(
       key text, asset uuid, kind text, origin text, statement text, problems jsonb, statements int
     )
     on conflict (source_id, key) do update
       set asset_id = excluded.asset_id, kind = excluded.kind, origin = excluded.origin,
           statement = excluded.statement, problems = excluded.problems, statements = excluded.statements, last_seen = now()`,
    [JSON.stringify(flows), sourceId],
  );
  await tx.run(
    `create temporary table if not exists told_flow (id uuid primary key, key text not null) on commit drop`,
  );
  await tx.run('truncate told_flow');
  await tx.run('insert into told_flow select id, key from flow where source_id = $1 and key = any($2::text[])', [
    sourceId,
    [...now],
  ]);
}

/** Edges to and from other sources, kept as they were told. */
async function keepRemote(tx: Db, sourceId: string, { remote }: Told): Promise<void> {
  const [columns, types] = [
    [
      'kind',
      'line',
      'expression',
      'from_id',
      'from_place',
      'from_path',
      'from_column',
      'to_id',
      'to_place',
      'to_path',
      'to_column',
    ],
    'flow text, kind text, line int, expression text, from_id uuid, from_place text, from_path text, from_column text, to_id uuid, to_place text, to_path text, to_column text',
  ];
  const same = columns.map((name) => `e.${name} is not distinct from n.${name}`).join(' and ');
  await tx.run(
    `with told as materialized (
       select f.id as flow_id, ${columns.map((name) => `r.${name}`).join(', ')}
       from json_to_recordset($1::json) as r(${types})
       join flow f on f.source_id = $2 and f.key = r.flow
     ),
     gone as (
       delete from remote_edge e
       where e.flow_id in (select id from told_flow)
         and not exists (select from told n where n.flow_id = e.flow_id and ${same})
     )
     insert into remote_edge (flow_id, ${columns.join(', ')})
     select distinct n.* from told n
     where not exists (select from remote_edge e where e.flow_id = n.flow_id and ${same})`,
    [JSON.stringify(remote), sourceId],
  );
}

/** All edges that are to stand: those told, and those of which the other end, in another source, is in the catalog by now. */
async function tellEdges(tx: Db, sourceId: string, edges: Told['edges']): Promise<void> {
  await tx.run(
    `create temporary table if not exists told_edge (
       flow_id uuid, from_id uuid, to_id uuid, kind text not null, line int, expression text, primary key (flow_id, from_id, to_id)
     ) on commit drop`,
  );
  await tx.run('truncate told_edge');
  await tx.run(
    `insert into told_edge (flow_id, from_id, to_id, kind, line, expression)
     select f.id, r."from", r."to", r.kind, r.line, r.expression
     from json_to_recordset($1::json) as r(flow text, "from" uuid, "to" uuid, kind text, line int, expression text)
     join told_flow f on f.key = r.flow
     on conflict do nothing`,
    [JSON.stringify(edges)],
  );
  // Those of this source's flows, and those of others that name this source.
  await tx.run(
    `with asked as (${REMOTE_OF('$1')})
     insert into told_edge (flow_id, from_id, to_id, kind, line, expression)
     select e.flow_id, coalesce(e.from_id, f.id), coalesce(e.to_id, t.id), e.kind, e.line, e.expression
     from asked e
     left join lateral (${endAt('from')}) f on e.from_id is null
     left join lateral (${endAt('to')}) t on e.to_id is null
     where e.kind = any($2::text[]) and coalesce(e.from_id, f.id) is not null and coalesce(e.to_id, t.id) is not null
     on conflict do nothing`,
    [sourceId, [...VALUE_KINDS]],
  );
}

/** What concerns a source of edges between sources: those of its own flows, and those of others that name it. */
const REMOTE_OF = (source: string): string => `
  select e.*
  from remote_edge e
  join flow f on f.id = e.flow_id
  where f.source_id = ${source}
  union
  select e.*
  from remote_edge e
  where e.from_place = (select place from source where id = ${source})
    or e.to_place = (select place from source where id = ${source})`;

async function keepEdges(tx: Db): Promise<void> {
  await tx.run(
    `delete from lineage_edge e
     where e.flow_id in (select id from told_flow)
       and not exists (
         select from told_edge n where n.flow_id = e.flow_id and n.from_id = e.from_id and n.to_id = e.to_id)`,
  );
  await tx.run(
    `insert into lineage_edge (flow_id, from_id, to_id, kind, line, expression)
     select n.flow_id, n.from_id, n.to_id, n.kind, n.line, n.expression
     from told_edge n
     left join lineage_edge e on e.flow_id = n.flow_id and e.from_id = n.from_id and e.to_id = n.to_id
     where e.kind is distinct from n.kind or e.line is distinct from n.line or e.expression is distinct from n.expression
     on conflict (flow_id, from_id, to_id) do update set kind = excluded.kind, line = excluded.line, expression = excluded.expression`,
  );
  await strikeWrong(tx);
}

/** Edges that people say are wrong stay so, whoever finds them again. */
const strikeWrong = (tx: Db): Promise<unknown> =>
  tx.run(
    `update lineage_edge e
     set wrong = true
     from wrong_edge w
     where (e.from_id, e.to_id) = (w.from_id, w.to_id) and not e.wrong`,
  );

async function keepInfluences(tx: Db, sourceId: string, { influences }: Told): Promise<void> {
  await tx.run(
    `with told as materialized (
       select f.id as flow_id, r."from" as from_id, r."to" as to_id, r.kind
       from json_to_recordset($1::json) as r(flow text, "from" uuid, "to" uuid, kind text)
       join flow f on f.source_id = $2 and f.key = r.flow
       union
       select e.flow_id, coalesce(e.from_id, f.id), coalesce(e.to_id, t.id), e.kind
       from (${REMOTE_OF('$2')}) e
       left join lateral (${endAt('from')}) f on e.from_id is null
       left join lateral (${tableAt('to')}) t on e.to_id is null
       where e.kind = any($3::text[]) and coalesce(e.from_id, f.id) is not null and coalesce(e.to_id, t.id) is not null
     ),
     gone as (
       delete from lineage_influence i
       where i.flow_id in (select id from told_flow)
         and (i.flow_id, i.from_id, i.to_id, i.kind) not in (select flow_id, from_id, to_id, kind from told)
     )
     insert into lineage_influence (flow_id, from_id, to_id, kind)
     select flow_id, from_id, to_id, kind from told
     on conflict do nothing`,
    [JSON.stringify(influences), sourceId, [...INFLUENCE_KINDS]],
  );
}

type Side = 'from' | 'to';
/**
 * Where an end of a remote edge `e` is, once it is in the catalog. One place can be registered twice: each has its own. Keys of an object store are
 * compared as they are written, since a file set stands under a name of several parts.
 */
const holderAt = (end: Side, take: (kinds: string, same: string) => string): string => `
  ${take("<> 'objects'", `holder.key = root.key || chr(31) || e.${end}_path`)}
  union all
  ${take("= 'objects'", `replace(holder.key, chr(31), '/') = root.key || '/' || replace(e.${end}_path, chr(31), '/')`)}`;
/** The table that an end of a remote edge `e` names, once it is in the catalog: rows of its id. */
const tableAt = (end: Side): string =>
  holderAt(
    end,
    (kinds, same) => `
      select holder.id
      from source s
      join asset root on root.source_id = s.id and root.parent_id is null
      join asset holder on holder.source_id = s.id and holder.kind <> 'column' and ${same}
      where s.place = e.${end}_place and s.kind ${kinds} and holder.gone_at is null`,
  );
/** The column that an end of a remote edge `e` names, once it is in the catalog: rows of its id. */
const columnAt = (end: Side): string =>
  holderAt(
    end,
    (kinds, same) => `
      select c.id
      from source s
      join asset root on root.source_id = s.id and root.parent_id is null
      join asset holder on holder.source_id = s.id and holder.kind <> 'column' and ${same}
      join asset c on c.parent_id = holder.id and c.kind = 'column' and c.name = e.${end}_column
      where s.place = e.${end}_place and s.kind ${kinds} and c.gone_at is null`,
  );

/** What an end of a remote edge `e` names, once it is in the catalog, a column or a table as a whole: rows of its id. */
export const endAt = (end: Side): string => `
  ${columnAt(end)}
  union all
  select w.id
  from (${tableAt(end)}) w
  where e.${end}_column is null`;
