import type { Step } from '@idrel/core/lineage';
import type { Db } from '../platform/database.ts';

export type Direction = 'downstream' | 'upstream';

/** Which table feeds which, by values or by rows, from (or to) those in $1. */
const TABLE_STEPS: Record<Direction, string> = {
  downstream:
    'select distinct from_id as "from", to_id as "to", null as edge from lineage_feed where from_id = any($1::uuid[])',
  upstream:
    'select distinct from_id as "from", to_id as "to", null as edge from lineage_feed where to_id = any($1::uuid[])',
};

/** Which column carries the values of which, and which tables' rows it decides, from (or to) those in $1. */
const COLUMN_STEPS: Record<Direction, string> = {
  downstream: `
    select from_id as "from", to_id as "to", kind as edge from lineage_edge where from_id = any($1::uuid[]) and not wrong
    union all
    select from_id, to_id, kind from lineage_influence where from_id = any($1::uuid[]) and kind <> 'unused'`,
  upstream: `
    select from_id as "from", to_id as "to", kind as edge from lineage_edge where to_id = any($1::uuid[]) and not wrong
    union all
    select from_id, to_id, kind from lineage_influence where to_id = any($1::uuid[]) and kind <> 'unused'`,
};
const STEPS = { table: TABLE_STEPS, column: COLUMN_STEPS };

/** The steps that begin (downstream) or end (upstream) at some assets. */
export type StepsAt<T = string | null> = (ids: readonly string[], direction: Direction) => Promise<Step<T>[]>;

/** The steps between tables, or between columns, as they stand. */
export const stepsOf =
  (db: Db, what: keyof typeof STEPS): StepsAt =>
  (ids, direction) =>
    ids.length === 0 ? Promise.resolve([]) : db.rows<Step<string | null>>(STEPS[what][direction], [ids]);

/**
 * The steps around some assets, outward ring by ring: what is further away, or elsewhere, is not read.
 * @param most rings
 * @param enough once so many assets are met, no further ring is read
 */
export async function walk<T>(
  stepsAt: StepsAt<T>,
  starts: readonly string[],
  direction: Direction,
  most = Number.POSITIVE_INFINITY,
  enough = Number.POSITIVE_INFINITY,
): Promise<Step<T>[]> {
  const steps: Step<T>[] = [];
  const met = new Set(starts);
  let ring = [...starts];
  for (let distance = 1; distance <= most && ring.length > 0 && met.size < enough; distance += 1) {
    const found = await stepsAt(ring, direction);
    steps.push(...found);
    ring = [...new Set(found.map((step) => (direction === 'downstream' ? step.to : step.from)))].filter(
      (id) => !met.has(id),
    );
    for (const id of ring) met.add(id);
  }
  return steps;
}
