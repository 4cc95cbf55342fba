import type pg from 'pg';
import { KEY_SEPARATOR, type Sampleable, type SampledTable } from '../types.ts';

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
/** Longer values are cut at the source: no sample is larger than rows × columns × this. */
const LONGEST = 2000;

/**
 * Reads a random sample of one table, at most `rows` of it, in a transaction that can only read and ends at its time limit.
 * Large tables are sampled by pages or rows (TABLESAMPLE); views and foreign tables give their first rows.
 */
export async function readSample(client: pg.Client, table: Sampleable, kind: string, rows: number): Promise<SampledTable> {
  const [, schema = '', name = ''] = table.key.split(KEY_SEPARATOR);
  const columns = table.columns.map((column) => `left(${quote(column.name)}::text, ${LONGEST})`);
  if (columns.length === 0) return { values: [] };
  const stored = kind === 'table' || kind === 'materialised view';
  const share = (rows * 150) / Math.max(table.estimatedRows, 1);
  const sampled = stored && share < 60 ? ` tablesample ${table.estimatedRows > 2_000_000 ? 'system' : 'bernoulli'} (${share.toFixed(6)})` : '';
  await client.query('begin transaction read only');
  try {
    await client.query("set local statement_timeout = '20s'");
    const result = await client.query<(string | null)[]>({ text: `select ${columns.join(', ')} from ${quote(schema)}.${quote(name)}${sampled} limit ${rows}`, rowMode: 'array' });
    return { values: table.columns.map((_, index) => result.rows.map((row) => row[index] ?? null)) };
  } finally {
    await client.query('rollback').catch(() => undefined);
  }
}
