import { maskedValue, type TableDecision } from '@idrel/core/access';
import { KEY_SEPARATOR, type RowsWanted, VALUE_LONGEST } from '@idrel/readers/connectors';
import type { Config } from '../platform/config.ts';
import { invalid } from '../platform/problems.ts';
import type { connectorInput } from '../sources/index.ts';
import { digestsFor } from './digests.ts';
import { mustReach, withReading } from './readNow.ts';
import type { TextRow } from './runQuery.ts';

const NEEDS_WHOLE: ReadonlySet<string> = new Set(['digest', 'substitute', 'partial', 'general']);

interface Elsewhere {
  readonly config: Pick<Config, 'digestKey'>;
  readonly source: { readonly name: string; readonly agentGroup: string | null };
  readonly reaching: ReturnType<typeof connectorInput>;
  /** The key of the table or file in the catalog. */
  readonly key: string;
  /** Of the reader, by which digests differ. */
  readonly organisation: string;
}

/**
 * A few rows of a table or file that lies in no PostgreSQL source: its connector reads the first rows of the columns that the person may read and of those
 * that limit their rows; what they may not see of them is taken away here, before anything goes on.
 * @param columns those that are shown, of those that are not refused
 * @throws 409 when only agents reach the source; 422 when it is of a kind that holds no rows; 502 when the source does not answer
 */
export async function rowsElsewhere(
  { config, source, reaching, key, organisation }: Elsewhere,
  decision: TableDecision,
  columns: readonly string[],
  most: number,
  left: AbortSignal,
): Promise<{ rows: TextRow[]; notes: string[] }> {
  mustReach(source, 'rows');
  const there = new Set(decision.columns.map(({ name }) => name));
  const limits = decision.rowLimits;
  if (limits.some(({ column, values }) => !there.has(column) || values.length === 0)) return { rows: [], notes: [] };
  if (limits.some(({ through }) => through !== null))
    return { rows: [], notes: ['Its rows are limited by a table of rights, which can be asked only in PostgreSQL.'] };
  const wanted: RowsWanted = {
    names: key.split(KEY_SEPARATOR).slice(1),
    columns: [...new Set([...columns, ...limits.map(({ column }) => column)])],
    only: limits.map(({ column, values }) => ({ column, values })),
    most,
  };
  const { rows, lookedInto } = await read(await reaching, wanted, left);
  const at = new Map(wanted.columns.map((name, index) => [name, index]));
  const valueIn = (row: readonly (string | null)[], name: string) => row[at.get(name) ?? -1] ?? null;
  // The source was asked for permitted rows alone; how it compares texts is its own affair, so it is not taken at its word.
  const permitted = rows.filter((row) =>
    limits.every(({ column, values }) => {
      const value = valueIn(row, column);
      return value !== null && values.includes(value);
    }),
  );
  const decided = new Map(decision.columns.map((column) => [column.name, column]));
  const digest = digestsFor(config, organisation);
  const today = new Date().toISOString().slice(0, 10);
  return {
    rows: permitted.map((row) =>
      columns.map((name) => {
        const [column, value] = [decided.get(name), valueIn(row, name)];
        if (!column) return null;
        // Of a text that was cut the digest would be that of others, too, and its last characters are not the last.
        if (column.mask && NEEDS_WHOLE.has(column.mask.kind) && value !== null && value.length >= VALUE_LONGEST)
          return null;
        return maskedValue(column, value, digest, today);
      }),
    ),
    notes: lookedInto ? [`Looked into the last ${lookedInto.parts} of its ${lookedInto.of} parts.`] : [],
  };
}

const read = (input: Awaited<ReturnType<typeof connectorInput>>, wanted: RowsWanted, left: AbortSignal) =>
  withReading(input, left, 'rows', (reading) => {
    if (!reading.rows)
      throw invalid(`${input.name} is of a kind that holds no rows.`, 'Rows are read of tables, views and files.');
    return reading.rows(wanted);
  });
