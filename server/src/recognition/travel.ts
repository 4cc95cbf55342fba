import type { Db } from '../platform/database.ts';

/**
 * Works out which classes travel where after what this transaction has changed; at its end that is done in any case. To be called before levels are locked.
 * @returns the assets of whose classes by lineage something is other than before: their levels are to be settled
 */
export async function settleTravel(tx: Db): Promise<string[]> {
  await tx.rows('select settle_travel_due()');
  const moved = await tx.rows<{ id: string }>('delete from travel_moved returning asset_id as id');
  return moved.map(({ id }) => id);
}
