import type { Consequence, Proposal } from '@idrel/core/lineage/proposed';

export const WHAT_WORDS: Readonly<Record<Proposal, string>> = {
  drop: 'Drop it',
  rename: 'Rename it',
  retype: 'Change its type',
  'forbid nulls': 'Forbid nulls',
  mask: 'Mask it',
  stop: 'Stop it',
};
export const CONSEQUENCE_WORDS: Readonly<Record<Consequence, string>> = {
  refused: 'stands in the way',
  fails: 'fails',
  stale: 'gets nothing new',
  shows: 'still shows the value',
  differs: 'differs',
  rows: 'other rows',
  unharmed: 'unharmed',
};
export const GRAVE: readonly Consequence[] = ['refused', 'fails', 'stale', 'shows'];
