import type { Db } from '../platform/database.ts';
import { wordsVector } from '../scanning/index.ts';

/** The words by which assets are found, when their descriptions are other ones. */
export async function setWords(tx: Db, ids: readonly string[]): Promise<void> {
  const facts = await tx.rows<{
    id: string;
    name: string;
    description: string | null;
    comment: string | null;
    columns: string[];
  }>(
    `
      select
        a.id, a.name, a.description, a.native_comment as comment,
        array(select c.name from asset c where c.parent_id = a.id and c.kind = 'column' and c.gone_at is null) as columns
      from asset a
      where a.id = any($1::uuid[])`,
    [ids],
  );
  await tx.run(
    `
      update asset a
      set words = w.words::tsvector
      from unnest($1::uuid[], $2::text[]) as w(id, words)
      where a.id = w.id`,
    [
      facts.map(({ id }) => id),
      facts.map(({ name, description, comment, columns }) => wordsVector([name], [description, comment, ...columns])),
    ],
  );
}
