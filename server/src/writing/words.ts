import type { Db } from '../platform/database.ts';
import { wordsVector } from '../scanning/index.ts';

/** So many letters of what is said about an asset are what it is found by. */
const LOOKED_AT = 200_000;

/** The words by which an asset is found for what is said about it at length; none when nothing is. */
export async function sayWords(tx: Db, assetId: string, saidIn: 'guide' | 'discussion', said: string): Promise<void> {
  const words = wordsVector([], [said.slice(0, LOOKED_AT)]);
  if (words === '') await tx.run('delete from said_words where asset_id = $1 and said_in = $2', [assetId, saidIn]);
  else
    await tx.run(
      `
        insert into said_words (asset_id, said_in, words)
        values ($1, $2, $3::tsvector)
        on conflict (asset_id, said_in)
        do update set words = excluded.words`,
      [assetId, saidIn, words],
    );
}
