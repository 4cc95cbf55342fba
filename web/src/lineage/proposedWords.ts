import type { Consequence, Proposal } from '@idrel/core/lineage/proposed';

export const WHAT_WORDS: Readonly<Record<Proposal, string>> = {
  drop: 'Drop it',
  rename: 'Rename it',
  retype: 'Change its type',
  'forbid nulls': 'Forbid nulls',
  mask: 'Mask it',
  stop: 'Stop it',
};
/** What is planned, as it is written to others. */
export function plannedInWords(what: Proposal, to: string | undefined): string {
  switch (what) {
    case 'drop':
      return 'is to be dropped';
    case 'rename':
      return `is to be renamed${to ? ` to ${to}` : ''}`;
    case 'retype':
      return `is to become ${to ?? 'of another type'}`;
    case 'forbid nulls':
      return 'is to take no nulls';
    case 'mask':
      return 'is to be masked';
    case 'stop':
      return 'is to be stopped';
  }
}
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
