import type { ColumnExplained, TableExplained } from '@idrel/contract/access';
import { maskInWords } from '@idrel/core/access/masks';

/** How a masked column is read, and why its mask is another one than the policy says. */
export const maskWords = ({ mask, instead }: Pick<ColumnExplained, 'mask' | 'instead'>): string =>
  mask ? `masked: ${maskInWords(mask)}${instead ? `, since ${instead}` : ''}` : 'masked';

/** Which rows alone are read, in words that go on from "where". */
export const rowWords = ({ column, values, through }: TableExplained['rowLimits'][number]): string =>
  through
    ? `${column} is one that ${through} gives the reader`
    : values.length > 0
      ? `${column} is ${values.join(' or ')}`
      : `${column} is what the reader has none of`;
