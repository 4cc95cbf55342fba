import type { FoundUse } from '@idrel/readers/connectors';
import type { Db } from '../platform/database.ts';
import { inBatches } from './batches.ts';
import { completeIds } from './ids.ts';

/** Keeps how often assets were asked for. A counter that has moved since the last scan says that somebody asked in between. */
export async function storeUses(
  tx: Db,
  runId: string,
  uses: ReadonlyMap<string, FoundUse>,
  ids: Map<string, string>,
): Promise<void> {
  await completeIds(tx, ids, uses.keys());
  await inBatches(
    [...uses].flatMap(([key, use]) => (ids.has(key) ? [{ asset: ids.get(key), ...use }] : [])),
    (row) => row,
    (batch) =>
      tx.run(
        `
          insert into asset_use (asset_id, run_id, calls, roles, statements)
          select r.asset, $2, r.calls, r.roles, r.statements
          from json_to_recordset($1::json) as r(asset uuid, calls float8, roles int, statements int)
          on conflict (asset_id)
          do update set
            run_id = excluded.run_id, calls = excluded.calls, roles = excluded.roles, statements = excluded.statements,
            seen_at = now(),
            moved_at = case when asset_use.calls is distinct from excluded.calls then now() else asset_use.moved_at end`,
        [JSON.stringify(batch), runId],
      ),
  );
}
