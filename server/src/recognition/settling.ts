import type { Db } from '../platform/database.ts';
import { SHOWING, settleSource } from './levels.ts';
import { settleAround } from './levelsAround.ts';
import { settleTravel } from './travel.ts';

/**
 * Sets the levels that follow from classes, for columns, for what holds them, for reports that show them, and wherever else a class of theirs travels; only rows that
 * differ are touched.
 */
export async function settleLevels(tx: Db, sourceId: string): Promise<void> {
  const moved = await settleTravel(tx);
  await settleSource(tx, sourceId, new Set());
  await settleAround(tx, moved);
}

/** Levels of all sources, after rules or classes have changed; those that show values of others after them. */
export async function settleAllLevels(tx: Db): Promise<void> {
  await settleTravel(tx);
  for (const { id } of await tx.rows<{ id: string }>(
    `select s.id from source s order by exists (select 1 from asset a where a.source_id = s.id and a.kind in ${SHOWING}), s.id`,
  ))
    await settleSource(tx, id, new Set());
}
