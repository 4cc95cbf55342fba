import { type Digest, maskedValue } from '../masks.ts';
import type { DecidedLimit } from '../types.ts';
import type { OpenTable } from './readers.ts';

/** A row as it stands, each value as text. */
export type TrueRow = ReadonlyMap<string, string | null>;

/** What at a database is otherwise than the policies would have it. */
export interface Difference {
  readonly role: string;
  readonly table: string;
  /** What is otherwise, in words. */
  readonly what: string;
}

/**
 * Whether readers see a row. Worked out from the row itself, not as the view asks for it: the one is held to the other.
 * @param permitted values that a table of rights gives them
 */
export const rowIsSeen = (
  { limits, table }: Pick<OpenTable, 'limits' | 'table'>,
  row: TrueRow,
  permitted: (limit: DecidedLimit) => ReadonlySet<string>,
): boolean =>
  limits.every((limit) => {
    if (!table.columns.some(({ name }) => name === limit.column)) return false;
    const value = row.get(limit.column) ?? null;
    if (value === null) return false;
    return limit.through === null ? limit.values.includes(value) : permitted(limit).has(value);
  });

/** What readers are shown of a row, in the order of the columns that are open to them. @param today as `YYYY-MM-DD` */
export const predictedRow = (
  { columns }: Pick<OpenTable, 'columns'>,
  row: TrueRow,
  digest: Digest,
  today: string,
): (string | null)[] => columns.map((column) => maskedValue(column, row.get(column.name) ?? null, digest, today));
