import type { Step } from '@idrel/core/lineage';
import type { Db } from '../platform/database.ts';

export type Direction = 'downstream' | 'upstream';

/** Which table feeds which, by values or by rows, from (or to) those in $1. */
const TABLE_STEPS: Record<Direction, string> = {
  downstream: `
    select distinct f.parent_id as "from", t.parent_id as "to", null as edge
    from asset f join lineage_edge e on e.from_id = f.id join asset t on t.id = e.to_id
    where f.parent_id = any($1::uuid[]) and f.parent_id <> t.parent_id
    union
    select distinct c.parent_id, fl.asset_id, null
    from asset c join lineage_influence i on i.from_id = c.id join flow fl on fl.id = i.flow_id
    where c.parent_id = any($1::uuid[]) and i.kind <> 'unused' and c.parent_id <> fl.asset_id`,
  upstream: `
    select distinct f.parent_id as "from", t.parent_id as "to", null as edge
    from asset t join lineage_edge e on e.to_id = t.id join asset f on f.id = e.from_id
    where t.parent_id = any($1::uuid[]) and f.parent_id <> t.parent_id
    union
    select distinct c.parent_id, fl.asset_id, null
    from flow fl join lineage_influence i on i.flow_id = fl.id join asset c on c.id = i.from_id
    where fl.asset_id = any($1::uuid[]) and i.kind <> 'unused' and c.parent_id <> fl.asset_id`,
};

/** Which column carries the values of which, and which tables' rows it decides, from (or to) those in $1. */
const COLUMN_STEPS: Record<Direction, string> = {
  downstream: `
    select from_id as "from", to_id as "to", kind as edge from lineage_edge where from_id = any($1::uuid[])
    union all
    select i.from_id, fl.asset_id, i.kind from lineage_influence i join flow fl on fl.id = i.flow_id where i.from_id = any($1::uuid[]) and i.kind <> 'unused'`,
  upstream: `
    select from_id as "from", to_id as "to", kind as edge from lineage_edge where to_id = any($1::uuid[])
    union all
    select i.from_id, fl.asset_id, i.kind from flow fl join lineage_influence i on i.flow_id = fl.id where fl.asset_id = any($1::uuid[]) and i.kind <> 'unused'`,
};
const STEPS = { table: TABLE_STEPS, column: COLUMN_STEPS };

/** The steps that begin (or end) at some assets. */
export const stepsAt = (db: Db, what: keyof typeof STEPS, ids: readonly string[], direction: Direction): Promise<Step<string | null>[]> =>
  ids.length === 0 ? Promise.resolve([]) : db.rows<Step<string | null>>(STEPS[what][direction], [ids]);

/**
 * The steps around an asset, outward ring by ring: what is further away, or elsewhere, is not read.
 * @param most rings
 * @param enough once so many assets are met, no further ring is read
 */
export async function walk(db: Db, what: keyof typeof STEPS, start: string, direction: Direction, most = Number.POSITIVE_INFINITY, enough = Number.POSITIVE_INFINITY): Promise<Step<string | null>[]> {
  const steps: Step<string | null>[] = [];
  const met = new Set([start]);
  let ring = [start];
  for (let distance = 1; distance <= most && ring.length > 0 && met.size < enough; distance += 1) {
    const found = await stepsAt(db, what, ring, direction);
    steps.push(...found);
    ring = [...new Set(found.map((step) => (direction === 'downstream' ? step.to : step.from)))].filter((id) => !met.has(id));
    for (const id of ring) met.add(id);
  }
  return steps;
}
