import type { Db } from '../platform/database.ts';
import { FROM, GRAVEST_FIRST, PATH } from './rows.ts';

/** Notices that hold today on some assets or on what they lie in, in words: what is told beside their rows. */
export async function notesOn(db: Db, assetIds: readonly string[]): Promise<string[]> {
  if (assetIds.length === 0) return [];
  const rows = await db.often<{ path: string; kind: string; text: string }>(
    `
      with recursive up as (
        select a.id, a.parent_id from asset a where a.id = any($1::uuid[])
        union
        select p.id, p.parent_id from asset p join up on up.parent_id = p.id
      )
      select ${PATH} as path, n.kind, n.text
      from ${FROM}
      join notice n on n.asset_id = a.id and n.holds
      where a.id in (select id from up)
      order by ${GRAVEST_FIRST}
      limit 20`,
    [assetIds],
  );
  return rows.map(({ path, kind, text }) => `${kind} on ${path}: ${text}`);
}
