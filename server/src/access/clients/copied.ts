import type { TextRow } from '../runQuery.ts';

/** How rows are copied out: as PostgreSQL's text format, or as CSV (documentation of PostgreSQL, COPY). */
export interface CopyFormat {
  readonly csv: boolean;
  readonly header: boolean;
}

const ESCAPED: Readonly<Record<string, string>> = {
  '\\': '\\\\',
  '\b': '\\b',
  '\f': '\\f',
  '\n': '\\n',
  '\r': '\\r',
  '\t': '\\t',
  '\v': '\\v',
};
const asText = (value: string | null): string =>
  value === null ? '\\N' : value.replace(/[\\\b\f\n\r\t\v]/g, (letter) => ESCAPED[letter] ?? letter);
/** An empty text is told from none by its quotation marks. */
const asCsv = (value: string | null): string =>
  value === null
    ? ''
    : value === '' || value === '\\.' || /[",\n\r]/.test(value)
      ? `"${value.replaceAll('"', '""')}"`
      : value;

/** A row as a line. */
export const copied = (row: TextRow, { csv }: CopyFormat): string =>
  `${csv ? row.map(asCsv).join(',') : row.map(asText).join('\t')}\n`;
