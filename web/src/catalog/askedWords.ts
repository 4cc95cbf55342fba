import type { AskedHow } from '@idrel/core/lineage';

/** In the order in which they are told. */
const WORDS: Record<AskedHow, string> = {
  shown: 'shown',
  join: 'joined by',
  filter: 'filtered by',
  group: 'grouped by',
  sort: 'sorted by',
  window: 'put in windows by',
  unused: 'read',
  written: 'written',
};

/** What statements do with a column or a table, in words. */
export const doneWith = (how: readonly AskedHow[]): string =>
  Object.entries(WORDS)
    .flatMap(([one, words]) => (how.includes(one as AskedHow) ? [words] : []))
    .join(', ');
