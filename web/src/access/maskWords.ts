import type { ColumnExplained } from '@idrel/contract/access';
import { maskInWords } from '@idrel/core/access/masks';

/** How a masked column is read, and why its mask is another one than the policy says. */
export const maskWords = ({ mask, instead }: Pick<ColumnExplained, 'mask' | 'instead'>): string =>
  mask ? `masked: ${maskInWords(mask)}${instead ? `, since ${instead}` : ''}` : 'masked';

/** With a capital at its beginning. */
export const asSentence = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1);
