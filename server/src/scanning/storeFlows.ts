import { type FoundFlow, KEY_SEPARATOR, type RemoteColumn, type RemoteEdge } from '@idrel/readers/connectors';
import type { Db } from '../platform/database.ts';
import type { RunResult } from './apply.ts';
import { completeIds } from './ids.ts';

interface FlowRow {
  asset: string;
  kind: string;
  statement: string;
  problems: readonly string[];
}
interface EdgeRow {
  asset: string;
  from: string;
  to: string;
  kind: string;
}

/** Writes what flows do to columns; the flows within the scope of the run are replaced as a whole. */
export async function storeFlows(
  tx: Db,
  source: { id: string },
  result: RunResult,
  ids: Map<string, string>,
): Promise<void> {
  const flows: FlowRow[] = [];
  const edges: EdgeRow[] = [];
  const influences: Omit<EdgeRow, 'to'>[] = [];
  const named = result.flows.flatMap((flow) => [
    flow.key,
    ...flow.edges.flatMap((edge) => [edge.from, edge.to]),
    ...flow.influences.map((influence) => influence.from),
    ...keysOf(flow.remote ?? []),
  ]);
  await completeIds(tx, ids, named);
  for (const flow of result.flows) {
    const asset = ids.get(flow.key);
    if (!asset) continue;
    flows.push({ asset, kind: flow.kind, statement: flow.statement, problems: flow.problems });
    for (const edge of flow.edges) {
      const [from, to] = [ids.get(edge.from), ids.get(edge.to)];
      if (from && to) edges.push({ asset, from, to, kind: edge.kind });
    }
    for (const influence of flow.influences) {
      const from = ids.get(influence.from);
      if (from) influences.push({ asset, from, kind: influence.kind });
    }
  }
  const before = await tx.rows<{ id: string; key: string }>(
    'select f.id, a.key from flow f join asset a on a.id = f.asset_id where f.source_id = $1',
    [source.id],
  );
  await tx.run('delete from flow where id = any($1::uuid[])', [
    before.filter((flow) => result.covers(flow.key)).map((flow) => flow.id),
  ]);
  await tx.run(
    'insert into flow (source_id, asset_id, kind, statement, problems) select $2, r.asset, r.kind, r.statement, r.problems from json_to_recordset($1::json) as r(asset uuid, kind text, statement text, problems jsonb)',
    [JSON.stringify(flows), source.id],
  );
  await tx.run(
    'insert into lineage_edge (flow_id, from_id, to_id, kind) select f.id, r."from", r."to", r.kind from json_to_recordset($1::json) as r(asset uuid, "from" uuid, "to" uuid, kind text) join flow f on f.asset_id = r.asset on conflict do nothing',
    [JSON.stringify(edges)],
  );
  await tx.run(
    'insert into lineage_influence (flow_id, from_id, kind) select f.id, r."from", r.kind from json_to_recordset($1::json) as r(asset uuid, "from" uuid, kind text) join flow f on f.asset_id = r.asset on conflict do nothing',
    [JSON.stringify(influences)],
  );
  await storeRemote(tx, source, result.flows, ids);
}

type End = RemoteColumn | string;
const keysOf = (edges: readonly RemoteEdge[]) =>
  edges.flatMap((edge) => [edge.from, edge.to]).filter((end): end is string => typeof end === 'string');

/** Keeps edges to and from other sources, and draws those whose other end is in the catalog. */
async function storeRemote(
  tx: Db,
  source: { id: string },
  flows: readonly FoundFlow[],
  ids: ReadonlyMap<string, string>,
): Promise<void> {
  const end = (side: 'from' | 'to', value: End) =>
    typeof value === 'string'
      ? { [`${side}_id`]: ids.get(value) ?? null }
      : {
          [`${side}_place`]: value.place,
          [`${side}_path`]: value.names.join(KEY_SEPARATOR),
          [`${side}_column`]: value.column,
        };
  const rows = flows.flatMap((flow) =>
    (flow.remote ?? [])
      .filter((edge) => [edge.from, edge.to].every((value) => typeof value !== 'string' || ids.has(value)))
      .map((edge) => ({ asset: ids.get(flow.key), kind: edge.kind, ...end('from', edge.from), ...end('to', edge.to) })),
  );
  if (rows.length > 0)
    await tx.run(
      `insert into remote_edge (flow_id, kind, from_id, from_place, from_path, from_column, to_id, to_place, to_path, to_column)
       select f.id, r.kind, r.from_id, r.from_place, r.from_path, r.from_column, r.to_id, r.to_place, r.to_path, r.to_column
       from json_to_recordset($1::json) as r(asset uuid, kind text, from_id uuid, from_place text, from_path text, from_column text, to_id uuid, to_place text, to_path text, to_column text)
       join flow f on f.asset_id = r.asset`,
      [JSON.stringify(rows)],
    );
  // Those of this source's flows, and those of others that name this source.
  await tx.run(
    `with place as (select place from source where id = $1),
     asked as (
       select e.* from remote_edge e join flow f on f.id = e.flow_id where f.source_id = $1
       union select e.* from remote_edge e where e.from_place = (select place from place) or e.to_place = (select place from place))
     insert into lineage_edge (flow_id, from_id, to_id, kind)
     select e.flow_id, coalesce(e.from_id, f.id), coalesce(e.to_id, t.id), e.kind from asked e
     left join lateral (${COLUMN_AT.replaceAll('#', 'from')}) f on e.from_id is null
     left join lateral (${COLUMN_AT.replaceAll('#', 'to')}) t on e.to_id is null
     where coalesce(e.from_id, f.id) is not null and coalesce(e.to_id, t.id) is not null
     on conflict do nothing`,
    [source.id],
  );
}

/**
 * The column that an end of a remote edge `e` names. One place can be registered twice: each has its column. Keys of an object store are
 * compared as they are written, since a file set stands under a name of several parts.
 */
const holderAt = (kinds: string, same: string): string => `
  select c.id from source s join asset root on root.source_id = s.id and root.parent_id is null
  join asset holder on holder.source_id = s.id and holder.kind <> 'column' and ${same}
  join asset c on c.parent_id = holder.id and c.kind = 'column' and c.name = e.#_column
  where s.place = e.#_place and s.kind ${kinds} 'objects' and c.gone_at is null`;
const COLUMN_AT = `${holderAt('<>', 'holder.key = root.key || chr(31) || e.#_path')}
  union all ${holderAt('=', "replace(holder.key, chr(31), '/') = root.key || '/' || replace(e.#_path, chr(31), '/')")}`;
