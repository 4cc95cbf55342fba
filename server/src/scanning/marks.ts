import { DETECTORS } from '@idrel/core/recognition';
import { digest, type Known, type Mark } from '../connectors/index.ts';
import type { Db } from '../platform/database.ts';

/** How values were looked at: with other detectors or another number of values, those that did not change are looked at again. */
export const recipeOf = (rows: number): string => digest([rows, DETECTORS.map((detector) => [detector.id, detector.version])]).slice(0, 12);

/** The mark of values that were sampled in this way; empty when the source says nothing of its values. */
export const sampledMark = (mark: Mark | undefined, recipe: string): string => (mark?.data ? `${mark.data}|${recipe}` : '');

/** What earlier runs have read of a source. @param recipe of a run that samples: values that were sampled in another way count as unknown */
export async function knownOf(db: Db, sourceId: string, recipe: string | undefined): Promise<Known> {
  const rows = await db.rows<{ key: string; structure: string; data: string | null }>(
    "select key, mark_structure as structure, mark_data as data from asset where source_id = $1 and kind <> 'column' and gone_at is null and mark_structure is not null",
    [sourceId],
  );
  const ending = `|${recipe}`;
  return {
    data: recipe !== undefined,
    marks: new Map(rows.map((row) => [row.key, { structure: row.structure, data: recipe !== undefined && row.data?.endsWith(ending) ? row.data.slice(0, -ending.length) : '' }])),
  };
}
