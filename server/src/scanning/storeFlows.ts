import { type FoundLink, keyOf } from '../connectors/index.ts';
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

/** Writes what views and foreign tables do to columns; the flows within the scope of the run are replaced as a whole. */
export async function storeFlows(tx: Db, source: { id: string }, result: RunResult, ids: Map<string, string>): Promise<void> {
  const flows: FlowRow[] = [];
  const edges: EdgeRow[] = [];
  const influences: Omit<EdgeRow, 'to'>[] = [];
  const named = result.flows.flatMap((flow) => [flow.key, ...flow.edges.flatMap((edge) => [edge.from, edge.to]), ...flow.influences.map((influence) => influence.from)]);
  const linked = result.links.flatMap((link) => [link.toKey, ...link.columns.map(([, name]) => keyOf(link.toKey, name))]);
  await completeIds(tx, ids, [...named, ...linked]);
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
  for (const link of result.links) await addLink(tx, link, ids, flows, edges);
  const before = await tx.rows<{ id: string; key: string }>('select f.id, a.key from flow f join asset a on a.id = f.asset_id where f.source_id = $1', [source.id]);
  await tx.run('delete from flow where id = any($1::uuid[])', [before.filter((flow) => result.covers(flow.key)).map((flow) => flow.id)]);
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
}

/** A foreign table takes its columns from a table of another registered source, when that one has been scanned. */
async function addLink(tx: Db, link: FoundLink, ids: ReadonlyMap<string, string>, flows: FlowRow[], edges: EdgeRow[]): Promise<void> {
  const asset = ids.get(link.toKey);
  if (!asset) return;
  flows.push({ asset, kind: 'foreign table', statement: link.statement, problems: [] });
  const origin = await tx.rows<{ name: string; id: string }>(
    `select c.name, c.id from source s join asset t on t.source_id = s.id and t.key = $4 join asset c on c.parent_id = t.id
     where s.kind = 'postgresql' and s.address ->> 'database' = $3 and (s.address ->> 'port')::int = $2
       and (s.address ->> 'host' = $1 or (s.address ->> 'host' in ('localhost', '127.0.0.1', '::1') and $1 in ('localhost', '127.0.0.1', '::1'))) limit 2000`,
    [link.from.host, link.from.port, link.from.database, keyOf(link.from.database, ...link.from.names)],
  );
  const byName = new Map(origin.map((column) => [column.name, column.id]));
  for (const [fromName, toName] of link.columns) {
    const [from, to] = [byName.get(fromName), ids.get(keyOf(link.toKey, toName))];
    if (from && to) edges.push({ asset, from, to, kind: 'copied' });
  }
}
