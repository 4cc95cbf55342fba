import type { Finding } from '@idrel/core/recognition';
import type { Db } from '../platform/database.ts';
import { inBatches } from './batches.ts';
import { completeIds } from './ids.ts';

/** Replaces what detectors claim of the columns that were sampled. What they claimed before is found since then. */
export async function storeFindings(
  tx: Db,
  runId: string,
  findings: ReadonlyMap<string, readonly Finding[]>,
  ids: Map<string, string>,
): Promise<void> {
  await completeIds(tx, ids, findings.keys());
  const since = new Map<string, Date>();
  await inBatches(
    [...findings.keys()].flatMap((key) => ids.get(key) ?? []),
    (id) => id,
    async (batch) => {
      const known = await tx.rows<{ asset: string; key: string; at: Date }>(
        'delete from claim where asset_id = any($1::uuid[]) returning asset_id as asset, class_key as key, found_at as at',
        [batch],
      );
      for (const { asset, key, at } of known) since.set(`${asset} ${key}`, at);
    },
  );
  const rows = [...findings].flatMap(([key, list]) => list.map((finding) => ({ asset: ids.get(key), finding })));
  await inBatches(
    rows,
    ({ asset, finding }) => ({
      asset,
      class_key: finding.classKey,
      since: since.get(`${asset} ${finding.classKey}`) ?? null,
      detector: finding.detector,
      version: finding.version,
      share: finding.share,
      matched: finding.matched,
      sampled: finding.sampled,
      distinct_values: finding.distinct,
      confidence: finding.confidence,
      state: finding.state,
      checked: finding.checked ?? false,
      evidence: {
        name: finding.name,
        terms: finding.terms,
        examples: finding.examples,
        ...(finding.inside ? { inside: finding.inside } : {}),
        ...(finding.texts ? { texts: finding.texts } : {}),
      },
    }),
    (batch) =>
      tx.run(
        `
          insert into claim (
            asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state,
            checked, evidence, run_id, found_at
          )
          select
            r.asset, r.class_key, r.detector, r.version, r.share, r.matched, r.sampled, r.distinct_values, r.confidence,
            r.state, r.checked, r.evidence, $2, coalesce(r.since, now())
          from json_to_recordset($1::json) as r(
            asset uuid, class_key text, detector text, version text, share float8, matched int, sampled int,
            distinct_values int, confidence float8, state text, checked boolean, evidence jsonb, since timestamptz
          )`,
        [JSON.stringify(batch), runId],
      ),
  );
}
