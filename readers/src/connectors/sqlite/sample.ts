import type { Database } from 'node-sqlite3-wasm';
import {
  namesThere,
  type RowsRead,
  type RowsWanted,
  type Sampleable,
  type SampledTable,
  type SampleMethod,
  VALUE_LONGEST,
} from '../types.ts';

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
/** Up to this many rows a table is read whole and shuffled; above it rows are drawn by their numbers. */
const SHUFFLED = 100_000;

/** A random sample of one table or view, at most `rows` of it. */
export function readSqliteSample(
  database: Database,
  table: Sampleable,
  rows: number,
  method: SampleMethod = 'random',
): SampledTable {
  const name = quote(namesThere(table)[0] ?? '');
  const list = table.columns
    .map((column) => `substr(cast(${quote(column.name)} as text), 1, ${VALUE_LONGEST})`)
    .join(', ');
  if (list === '') return { values: [] };
  const drawn = `
    where rowid in (
      with recursive draw(n) as (select 1 union all select n + 1 from draw where n < ${rows * 2})
      select abs(random() % ${Math.max(1, table.estimatedRows)}) + 1
      from draw
    )
    limit ${rows}`;
  const sql = `
    select ${list}
    from ${name} ${method === 'first' ? `limit ${rows}` : table.estimatedRows > SHUFFLED ? drawn : `order by random() limit ${rows}`}`;
  const lists = readLists(database, sql, []);
  return { values: table.columns.map((_, index) => lists.map((row) => row[index] ?? null)) };
}

/** The first rows of one table or view. */
export function readSqliteRows(database: Database, { names, columns, only, most, whole }: RowsWanted): RowsRead {
  // With the table before it, a column that is gone is an error: a name in double quotes alone would then be read as a text.
  const list = columns
    .map((name) => `cast(t.${quote(name)} as text)`)
    .map((value) => (whole ? value : `substr(${value}, 1, ${VALUE_LONGEST})`));
  const conditions = only.map(
    ({ column, values }) => `cast(t.${quote(column)} as text) collate binary in (${values.map(() => '?').join(', ')})`,
  );
  const where = conditions.length > 0 ? `where ${conditions.join(' and ')}` : '';
  return {
    rows: readLists(
      database,
      `select ${list.length > 0 ? list.join(', ') : '1'} from ${quote(names[0] ?? '')} t ${where} limit ${most}`,
      only.flatMap(({ values }) => values),
    ),
  };
}

function readLists(database: Database, sql: string, values: string[]): (string | null)[][] {
  const statement = database.prepare(sql);
  try {
    const read = statement.all(values, { expand: false }) as Record<string, unknown>[];
    return read.map((row) =>
      Object.values(row).map((value) => (value === null || value === undefined ? null : String(value))),
    );
  } finally {
    statement.finalize();
  }
}
