import type { ColumnProfile } from '@idrel/core/scanning';
import type { Db } from '../platform/database.ts';
import { inBatches } from './batches.ts';
import { completeIds } from './ids.ts';

/** Replaces the profiles of the columns that were looked at; the levels that are settled afterwards take the values out of those that are guarded. */
export async function storeProfiles(
  tx: Db,
  runId: string,
  profiles: ReadonlyMap<string, ColumnProfile>,
  ids: Map<string, string>,
): Promise<void> {
  await completeIds(tx, ids, profiles.keys());
  await inBatches(
    [...profiles].flatMap(([key, facts]) => (ids.has(key) ? [{ asset: ids.get(key), facts }] : [])),
    (row) => row,
    (batch) =>
      tx.run(
        `
          insert into column_profile (asset_id, run_id, facts)
          select r.asset, $2, r.facts
          from json_to_recordset($1::json) as r(asset uuid, facts jsonb)
          on conflict (asset_id)
          do update set run_id = excluded.run_id, at = now(), facts = excluded.facts`,
        [JSON.stringify(batch), runId],
      ),
  );
}
