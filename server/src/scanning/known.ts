import type { Known } from '@idrel/readers/connectors';
import type { Db } from '../platform/database.ts';

/** What earlier runs have read of a source. @param recipe of a run that samples: values that were sampled in another way count as unknown */
export async function knownOf(db: Db, sourceId: string, recipe: string | undefined): Promise<Known> {
  const rows = await db.rows<{ key: string; structure: string; data: string | null }>(
    `
      select key, mark_structure as structure, mark_data as data
      from asset
      where source_id = $1 and kind <> 'column' and gone_at is null and mark_structure is not null`,
    [sourceId],
  );
  const ending = `|${recipe}`;
  return {
    data: recipe !== undefined,
    marks: new Map(
      rows.map((row) => [
        row.key,
        {
          structure: row.structure,
          data: recipe !== undefined && row.data?.endsWith(ending) ? row.data.slice(0, -ending.length) : '',
        },
      ]),
    ),
  };
}
