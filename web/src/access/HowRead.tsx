import type { ColumnExplained } from '@idrel/contract/access';
import { maskWords } from './maskWords.ts';

/** How somebody reads a column: as it is, masked, in a preview alone, or not at all. */
export const HowRead = ({ column }: { column: Pick<ColumnExplained, 'access' | 'mask' | 'instead'> }) =>
  column.access === 'plain' ? (
    'read'
  ) : column.access === 'masked' ? (
    maskWords(column)
  ) : column.access === 'preview' ? (
    `a few rows are shown${column.mask ? `: ${maskWords(column)}` : ''}`
  ) : (
    <span className="attention">refused</span>
  );
