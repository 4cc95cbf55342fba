import type { ColumnDecision, RowLimit } from './types.ts';

export const quoteIdentifier = (name: string): string => `"${name.replaceAll('"', '""')}"`;
/** A text constant that holds in every setting of standard_conforming_strings. */
export const quoteText = (text: string): string => (text.includes('\\') ? ` E'${text.replaceAll('\\', '\\\\').replaceAll("'", "''")}'` : `'${text.replaceAll("'", "''")}'`);

/**
 * The SQL expression that stands in a column's place.
 * @param salt mixed into digests, so that they cannot be looked up in a table of digests made elsewhere
 */
export function maskedExpression(column: ColumnDecision, salt: string): string {
  const name = quoteIdentifier(column.name);
  const text = `CAST(${name} AS text)`;
  switch (column.mask) {
    case null:
      return name;
    case 'blank':
      return 'CAST(NULL AS text)';
    case 'hash':
      return `"left"(encode(sha256(convert_to(${quoteText(salt)} || ${text}, 'UTF8')), 'hex'), 16)`;
    case 'year':
      return `"left"(${text}, 4)`;
    case 'partial':
      return `CASE WHEN ${name} IS NULL THEN NULL ELSE "left"(${text}, 1) || '•••' END`;
  }
}

/** The condition that keeps only permitted rows; compared as text, so that no cast of a value can fail. */
export const rowCondition = (limit: RowLimit): string => (limit.values.length === 0 ? 'FALSE' : `CAST(${quoteIdentifier(limit.column)} AS text) IN (${limit.values.map(quoteText).join(', ')})`);
