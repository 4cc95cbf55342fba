import { Binder, FROM, readFilter, whereVisible } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';

/** Which of some assets a filter finds. @throws 422 when it cannot be read */
export async function fitting(db: Db, who: Who, filter: string, ids: readonly string[]): Promise<string[]> {
  const binder = new Binder();
  const where = whereVisible(readFilter(filter), who, binder);
  const found = await db.rows<{ id: string }>(
    `select a.id from ${FROM} where a.id = any(${binder.add(ids)}::uuid[]) and ${where}`,
    binder.values,
  );
  return found.map(({ id }) => id);
}
