import type { TagAnswer } from '@idrel/contract/curation';
import type { Db } from '../platform/database.ts';
import { wordsVector } from '../scanning/index.ts';

/** The words of a tag's key, by which what carries it is found. */
export const spellTag = (tx: Db, { id, name }: Pick<TagAnswer, 'id' | 'name'>): Promise<number> =>
  tx.run('update tag set words = $2::tsvector where id = $1', [id, wordsVector([name], [])]);

/** Words of values of tags, by which what carries them is found; those that are known stay. */
export async function spellValues(tx: Db, values: readonly string[]): Promise<void> {
  const some = [...new Set(values)].filter(Boolean);
  if (some.length === 0) return;
  await tx.run(
    `
      insert into tag_value_words (value, words)
      select v.value, v.words::tsvector
      from unnest($1::text[], $2::text[]) as v(value, words)
      order by 1
      on conflict do nothing`,
    [some, some.map((value) => wordsVector([value], []))],
  );
}

/** Words of tags and of their values of which they are not worked out yet: those that were there before there were any. */
export async function spellTags(tx: Db): Promise<void> {
  const unspelled = await tx.rows<{ value: string }>(
    'select distinct value from asset_tag t where not exists (select from tag_value_words v where v.value = t.value)',
  );
  await spellValues(
    tx,
    unspelled.map(({ value }) => value),
  );
  for (const tag of await tx.rows<TagAnswer>('select id, name from tag where words is null')) await spellTag(tx, tag);
}
