import type { AskedHow } from '@idrel/core/lineage';

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
export const doneWith = (how: readonly AskedHow[]): string => how.map((one) => WORDS[one]).join(', ');
