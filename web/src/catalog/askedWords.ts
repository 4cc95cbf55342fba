import type { AskedHow } from '@idrel/core/lineage';

/** In the order in which they are told. */
const WORDS: Record<AskedHow, string> = {
  shown: 'shows it',
  join: 'joins by it',
  filter: 'filters by it',
  group: 'groups by it',
  sort: 'sorts by it',
  window: 'orders windows by it',
  unused: 'names it without effect',
  written: 'writes into it',
};

/** What statements do with a column or a table, in words. */
export const doneWith = (how: readonly AskedHow[]): string =>
  Object.entries(WORDS)
    .flatMap(([one, words]) => (how.includes(one as AskedHow) ? [words] : []))
    .join(', ');
