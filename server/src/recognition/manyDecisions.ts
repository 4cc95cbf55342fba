import type { Db } from '../platform/database.ts';
import { settleAround } from './levelsAround.ts';

export type Decision = 'confirmed' | 'dismissed';

/** Writes what a person decided of a class in columns; what was seen of a detector's claim is kept with it. Levels are not settled by this. */
export const writeDecisions = (
  tx: Db,
  personId: string,
  ids: readonly string[],
  classKey: string,
  decision: Decision,
  reason: string,
): Promise<number> =>
  tx.run(
    `
      insert into finding_decision (asset_id, class_key, decision, reason, decided_by, seen)
      select
        d.id, $2, $3, $4, $5,
        (
          select jsonb_build_object(
            'detector', f.detector, 'version', f.detector_version, 'share', f.share, 'confidence', f.confidence
          )
          from finding f
          where f.asset_id = d.id and f.class_key = $2
        )
      from unnest($1::uuid[]) as d(id)
      on conflict (asset_id, class_key)
      do update set
        decision = excluded.decision, reason = excluded.reason, decided_by = excluded.decided_by, decided_at = now(),
        seen = excluded.seen`,
    [ids, classKey, decision, reason, personId],
  );

/** SQL of what stands decided of a class at `asset a`, whole, so that it can be put back; an empty text where nothing does. @param key SQL of the class */
export const decisionKept = (key: string): string =>
  `coalesce((select to_json(d)::text from finding_decision d where d.asset_id = a.id and d.class_key = ${key}), '')`;

/** SQL of what is said of a class at `asset a`: what somebody decided, else what was found. */
export const saidOfClass = (key: string): string => `
  coalesce(
    (select d.decision from finding_decision d where d.asset_id = a.id and d.class_key = ${key}),
    (select f.state from finding f where f.asset_id = a.id and f.class_key = ${key})
  )`;

/** Decides of a class in many columns, and settles the levels that follow; what is given is that of {@link writeDecisions}. */
export async function decideMany(...[tx, personId, ids, ...said]: Parameters<typeof writeDecisions>): Promise<void> {
  await writeDecisions(tx, personId, ids, ...said);
  await settleAround(tx, ids);
}

/** Puts back what stood decided of a class. @param kept by column what {@link decisionKept} told */
export async function putDecisionsBack(
  tx: Db,
  classKey: string,
  kept: readonly { readonly id: string; readonly before: string | null }[],
): Promise<void> {
  const ids = kept.map(({ id }) => id);
  await tx.run('delete from finding_decision where class_key = $2 and asset_id = any($1::uuid[])', [ids, classKey]);
  await tx.run(
    `
      insert into finding_decision
      select d.*
      from unnest($1::text[]) as b(kept)
      cross join lateral json_populate_record(null::finding_decision, b.kept::json) d`,
    [kept.flatMap(({ before }) => (before ? [before] : []))],
  );
  await settleAround(tx, ids);
}
