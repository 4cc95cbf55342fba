import type { TagBody } from '@idrel/contract/curation';
import type { TagOfLine } from '@idrel/contract/exchange';
import type { Who } from '../people/index.ts';
import type { Tx } from '../platform/database.ts';
import { type GivenLine, type LineSaid, lineByLine } from '../platform/lines.ts';
import { addTag, changeTag } from './tags.ts';

/** Takes tags line by line: one that is there by its name is changed, in what the line speaks of; else it is made, for every editor and every kind of asset. */
export async function takeTagLines(tx: Tx, who: Who, lines: readonly GivenLine<TagOfLine>[]): Promise<LineSaid[]> {
  if (lines.length === 0) return [];
  const rows = await tx.rows<TagBody & { id: string; version: number }>(
    `
      select id, name, description, permitted, kinds, group_ids as "groupIds", travels, version
      from tag
      where removed_at is null and lower(name) = any($1::text[])`,
    [lines.map(({ value }) => value.name.toLowerCase())],
  );
  const known = new Map(rows.map((tag) => [tag.name.toLowerCase(), tag]));
  return lineByLine(tx, lines, async (line) => {
    who.mustAnywhere('steward');
    const before = known.get(line.name.toLowerCase());
    const { description = '', permitted = null, kinds = null, groupIds = [], travels = [] } = before ?? {};
    const body = { description, permitted, kinds, groupIds, travels, ...line };
    const after = before ? await changeTag(tx, who, before.id, before.version, body) : await addTag(tx, who, body);
    known.set(line.name.toLowerCase(), after);
    return {
      outcome: !before ? 'made' : after.version === before.version ? 'same' : 'changed',
      id: after.id,
    };
  });
}
