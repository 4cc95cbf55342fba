import type { Database } from 'node-sqlite3-wasm';
import { namesThere, type Sampleable, type SampledTable, type SampleMethod } from '../types.ts';

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
const LONGEST = 2000;
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
  const list = table.columns.map((column) => `substr(cast(${quote(column.name)} as text), 1, ${LONGEST})`).join(', ');
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
  const statement = database.prepare(sql);
  try {
    const read = statement.all([], { expand: false }) as Record<string, unknown>[];
    const lists = read.map((row) => Object.values(row));
    return {
      values: table.columns.map((_, index) =>
        lists.map((row) => (row[index] === null || row[index] === undefined ? null : String(row[index]))),
      ),
    };
  } finally {
    statement.finalize();
  }
}
