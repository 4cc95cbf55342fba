import type { ColumnExplained } from '@idrel/contract/access';

/** How a masked column is read, and why its mask is another one than the policy says. */
export const maskWords = ({ mask, instead }: Pick<ColumnExplained, 'mask' | 'instead'>): string =>
  instead ? `masked (${mask}, since ${instead})` : `masked (${mask})`;
