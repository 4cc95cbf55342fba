import type { Db } from '../platform/database.ts';
import { levelsJson } from './registry.ts';

/** From this level on no raw value of a column is kept. */
const GUARDED = 3;

/**
 * Classes that count for a column: what people confirmed, and what a detector is certain of unless people dismissed it.
 * A finding that is still to settle does not raise a level.
 */
const COUNTING = `(d.decision = 'confirmed' or (d.decision is null and f.state = 'certain'))`;

/** Sets the levels that follow from classes, for columns and for what holds them; only rows that differ are touched. */
export async function settleLevels(tx: Db, sourceId: string): Promise<void> {
  const anything = await tx.one(
    `select 1 as yes where exists (select 1 from finding f join asset a on a.id = f.asset_id where a.source_id = $1) or exists (select 1 from finding_decision d join asset a on a.id = d.asset_id where a.source_id = $1)
       or exists (select 1 from asset a where a.source_id = $1 and a.level is not null)`,
    [sourceId],
  );
  if (!anything) return;
  await setLevels(tx, sourceId);
  await guardProfiles(tx, sourceId);
}

/** Takes out of the profiles of guarded columns everything from which a value could be read; the same as `guardProfile` of core. */
async function guardProfiles(tx: Db, sourceId: string): Promise<void> {
  await tx.run(
    `update column_profile p set facts = p.facts || '{"guarded": true, "first": null, "last": null, "span": null, "quantiles": null, "frequent": [], "histogram": null}'
     from asset a where a.id = p.asset_id and a.source_id = $1 and a.level >= ${GUARDED} and p.facts -> 'guarded' = 'false'`,
    [sourceId],
  );
}

async function setLevels(tx: Db, sourceId: string): Promise<void> {
  await tx.run(
    `with of_column as (
       select a.id, a.parent_id, max(($2::jsonb ->> k.class_key)::smallint) as level
       from asset a
       join (select asset_id, class_key from finding union select asset_id, class_key from finding_decision) k on k.asset_id = a.id
       left join finding f on f.asset_id = a.id and f.class_key = k.class_key
       left join finding_decision d on d.asset_id = a.id and d.class_key = k.class_key
       where a.source_id = $1 and ${COUNTING} group by a.id),
     of_holder as (select c.parent_id as id, max(coalesce(c.level_set, l.level)) as level from asset c left join of_column l on l.id = c.id where c.source_id = $1 and c.kind = 'column' and c.gone_at is null group by 1),
     wanted as (select a.id, coalesce(l.level, h.level) as level from asset a left join of_column l on l.id = a.id left join of_holder h on h.id = a.id where a.source_id = $1)
     update asset a set level_found = w.level from wanted w where w.id = a.id and a.level_found is distinct from w.level`,
    [sourceId, await levelsJson(tx)],
  );
}
