import { KEY_SEPARATOR } from '@idrel/readers/connectors';
import type { Db } from '../platform/database.ts';
import { inBatches } from './batches.ts';

/** Adds the ids of those keys that are not there yet; columns of units that did not change are not loaded otherwise. */
export async function completeIds(tx: Db, ids: Map<string, string>, keys: Iterable<string>): Promise<void> {
  // Columns are found through what holds them, so these come along whole.
  const missing = new Set<string>();
  for (const key of keys) if (!ids.has(key)) missing.add(key.slice(0, key.lastIndexOf(KEY_SEPARATOR)));
  await inBatches(
    [...missing].flatMap((key) => ids.get(key) ?? []),
    (id) => id,
    async (batch) => {
      const rows = await tx.rows<{ id: string; key: string }>(
        "select id, key from asset where parent_id = any($1::uuid[]) and kind = 'column'",
        [batch],
      );
      for (const row of rows) ids.set(row.key, row.id);
    },
  );
}
