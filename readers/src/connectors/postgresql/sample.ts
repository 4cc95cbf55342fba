import type { ColumnProfile, Measure } from '@idrel/core/scanning';
import type pg from 'pg';
import { type ProfileDialect, type ProfileRow, profileSql, readProfiles } from '../profile.ts';
import { namesThere, type Sampleable, type SampledTable, type SampleMethod } from '../types.ts';

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
/** Longer values are cut at the source: no sample is larger than rows × columns × this. */
const LONGEST = 2000;

/**
 * Reads a random sample of one table, at most `rows` of it, in a transaction that can only read and ends at its time limit.
 * Large tables are sampled by pages or rows (TABLESAMPLE); views and foreign tables give their first rows.
 */
export async function readSample(
  client: pg.Client,
  table: Sampleable,
  kind: string,
  rows: number,
  method: SampleMethod = 'random',
): Promise<SampledTable> {
  const columns = table.columns.map((column) => `left(${quote(column.name)}::text, ${LONGEST})`);
  if (columns.length === 0) return { values: [] };
  const read = await readOnly<(string | null)[]>(
    client,
    `select ${columns.join(', ')} from ${drawn(table, method === 'first' ? 'view' : kind, rows)} limit ${rows}`,
  );
  return { values: table.columns.map((_, index) => read.map((row) => row[index] ?? null)) };
}

/** The table, or a random part of it somewhat larger than the rows that are wanted. */
function drawn(table: Sampleable, kind: string, rows: number): string {
  const [schema = '', name = ''] = namesThere(table);
  const stored = kind === 'table' || kind === 'materialised view';
  const share = (rows * 150) / Math.max(table.estimatedRows, 1);
  return `${quote(schema)}.${quote(name)}${stored && share < 60 ? ` tablesample ${table.estimatedRows > 2_000_000 ? 'system' : 'bernoulli'} (${share.toFixed(6)})` : ''}`;
}

async function readOnly<R extends unknown[]>(client: pg.Client, text: string): Promise<R[]> {
  await client.query('begin transaction read only');
  try {
    await client.query("set local statement_timeout = '20s'; set local timezone = 'UTC'; set local jit = off");
    return (await client.query<R>({ text, rowMode: 'array' })).rows;
  } finally {
    await client.query('rollback').catch(() => undefined);
  }
}

const CLASSES = { capitals: '[[:upper:]]+', small: '[[:lower:]]+' } as const;
const DIALECT: ProfileDialect = {
  number: (value) => `${value}::float8`,
  seconds: (value) => `extract(epoch from ${value}::timestamptz)::float8`,
  replace: (value, pattern, by) =>
    pattern === 'digit'
      ? `translate(${value}, '012345678', '${by.repeat(9)}')`
      : `regexp_replace(${value}, '${CLASSES[pattern]}', '${by}', 'g')`,
  plain: (value) => `${value} collate "C"`,
};

/** Profiles of all columns in one statement, from a random part of a large table. */
export async function readProfile(
  client: pg.Client,
  table: Sampleable,
  kind: string,
  measures: readonly Measure[],
  rows: number,
): Promise<ColumnProfile[]> {
  const columns = table.columns.map((column, index) => ({
    text: `${quote(column.name)}::text`,
    measure: measures[index] ?? 'text',
  }));
  const from = drawn(table, kind, rows);
  const read = await readOnly<[string, number, string | null, number, number, number]>(
    client,
    profileSql(`(select * from ${from} limit ${rows}) t`, columns, DIALECT),
  );
  return readProfiles(read as ProfileRow[], measures, (counted) => counted < rows && !from.includes(' tablesample '));
}
