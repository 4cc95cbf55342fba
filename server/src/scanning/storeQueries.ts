import type { FoundQuery } from '@idrel/readers/connectors';
import { forgetAsked, keepAsked } from '../catalog/index.ts';
import type { Tx } from '../platform/database.ts';
import { completeIds } from './ids.ts';
import { wordsVector } from './words.ts';

const BATCH = 500;

/** Keeps what was asked at the source, and by whom. A counter that has moved since the last scan says that somebody asked in between. */
export async function storeQueries(
  tx: Tx,
  sourceId: string,
  runId: string,
  queries: readonly FoundQuery[],
  ids: Map<string, string>,
): Promise<void> {
  await completeIds(
    tx,
    ids,
    queries.flatMap(({ reads }) => reads.map(([key]) => key)),
  );
  for (let from = 0; from < queries.length; from += BATCH)
    await keepAsked(
      tx,
      sourceId,
      runId,
      queries.slice(from, from + BATCH).flatMap(({ print, text, calls, reads, gives, whole }) => {
        const known = reads.flatMap(([key, how]) => {
          const id = ids.get(key);
          return id ? [[id, how] as const] : [];
        });
        return known.length === 0
          ? []
          : [
              {
                print,
                text,
                roles: calls,
                reads: known,
                words: wordsVector([], gives),
                whole: whole && known.length === reads.length,
              },
            ];
      }),
    );
  await forgetAsked(tx, sourceId);
}
