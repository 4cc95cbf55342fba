import { createHash } from 'node:crypto';
import {
  type DecidedLimit,
  type Difference,
  type Digest,
  KEYS_SCHEMA,
  keyName,
  needsKeys,
  type Placed,
  type PlacedReaders,
  predictedRow,
  quoteIdentifier,
  rowIsSeen,
  type TrueRow,
} from '@idrel/core/access';
import type pg from 'pg';

/** Rows of each table that are compared cell by cell. */
const SAMPLE = 100;
/** From so many rows on, as the server estimates them, rows are drawn from pages and not from all of them. */
const MANY_ROWS = 200_000;
const DIFFERENCES = 200;
/** What the source says when a statement took longer than it may. */
const STOPPED = '57014';
/** A table that takes longer to be counted than a statement may: it is not known whether it differs. */
const TOO_LONG = 'too long';

export interface Checked {
  readonly looked: number;
  readonly of: number;
  readonly differences: readonly Difference[];
  /** Where the next look begins. */
  readonly next: number;
}

const full = (schema: string, name: string) => `${quoteIdentifier(schema)}.${quoteIdentifier(name)}`;

/**
 * Reads each table as its readers do and holds what comes to what the policies say: which columns, how many rows of all, and each cell of some of them, as
 * worked out here from the values as they stand.
 *
 * @param seconds how long it may take: what was not looked at by then is left
 * @param before what the last look found: this one begins where that one ended, so that with time all of them are looked at, and what it found of others stays
 */
export async function checkReading(
  client: pg.Client,
  readers: readonly PlacedReaders[],
  seconds: number,
  before: Pick<Checked, 'differences' | 'next'>,
): Promise<Checked> {
  const all = readers.flatMap((one) => one.tables.map((table) => ({ readers: one, table })));
  const until = performance.now() + seconds * 1000;
  const differences: Difference[] = [];
  const keys = await keysThere(client, readers);
  const nameOf = ({ role }: PlacedReaders, { table }: Placed) =>
    JSON.stringify([role, `${table.schema}.${table.name}`]);
  const left = new Set(all.map(({ readers: those, table }) => nameOf(those, table)));
  const from = before.next < all.length ? before.next : 0;
  let looked = 0;
  let nth = 0;
  for (; nth < all.length && performance.now() < until; nth += 1) {
    const one = all[(from + nth) % all.length];
    if (!one) break;
    const what = await differing(client, one.readers, one.table, keys);
    if (what === TOO_LONG) continue;
    differences.push(
      ...what.map((words) => ({
        role: one.readers.role,
        table: `${one.table.table.schema}.${one.table.table.name}`,
        what: words,
      })),
    );
    left.delete(nameOf(one.readers, one.table));
    looked += 1;
    if (differences.length >= DIFFERENCES) break;
  }
  const known = before.differences.filter(({ role, table }) => left.has(JSON.stringify([role, table])));
  return {
    looked,
    of: all.length,
    differences: [...differences, ...known].slice(0, DIFFERENCES),
    next: all.length === 0 ? 0 : (from + nth) % all.length,
  };
}

/** Keys of digests as they were drawn there. */
async function keysThere(client: pg.Client, readers: readonly PlacedReaders[]): Promise<ReadonlyMap<string, string>> {
  if (!needsKeys(readers)) return new Map();
  try {
    const { rows } = await client.query<{ name: string; value: string }>(
      `select name, value from ${full(KEYS_SCHEMA, 'key')}`,
    );
    return new Map(rows.map(({ name, value }) => [name, value]));
  } catch {
    // What is not there is told table by table: a view that asks for it gives an error or other digests.
    return new Map();
  }
}

async function differing(
  client: pg.Client,
  { role, organisation }: PlacedReaders,
  placed: Placed,
  keys: ReadonlyMap<string, string>,
): Promise<string[] | typeof TOO_LONG> {
  const as = `set local role ${quoteIdentifier(role)}`;
  await client.query('begin transaction isolation level repeatable read read only');
  try {
    const columns = await differingColumns(client, role, placed);
    // Its own row policies give each who asks other rows: what these should be is not known here.
    if (columns.length > 0 || placed.ownRows) return columns;
    const expected = await predicted(client, placed, organisation, keys);
    await client.query(as);
    const { rows: counts } = await client.query<{ n: string }>(
      `select count(*) as n from ${full(placed.schema, placed.name)}`,
    );
    const n = Number(counts[0]?.n);
    if (n !== expected.count) return [`${n} rows are read, and ${expected.count} are to be`];
    return await differingCells(client, placed, expected.rows);
  } catch (error) {
    const { code, message } = error as Error & { code?: string };
    if (code === STOPPED) return TOO_LONG;
    // Names and rights may be told; what else went wrong can hold values.
    return [code?.startsWith('42') ? `it cannot be read: ${message}` : `it cannot be read (${code ?? 'no answer'})`];
  } finally {
    await client.query('rollback').catch(() => undefined);
  }
}

/** Columns that a role reads and should not, or the other way round; also of the table itself where it is shown by a view. */
async function differingColumns(client: pg.Client, role: string, placed: Placed): Promise<string[]> {
  const { table, columns, schema, name } = placed;
  const { rows } = await client.query<{ schema: string; name: string; columns: string[] }>(
    `
      select n.nspname as schema, c.relname as name,
        array(
          select a.attname::text
          from pg_attribute a
          where a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped and has_column_privilege($1, c.oid, a.attnum, 'SELECT')
          order by 1) as columns
      from pg_class c
      join pg_namespace n on n.oid = c.relnamespace
      where (n.nspname, c.relname) in (($2, $3), ($4, $5))`,
    [role, schema, name, table.schema, table.name],
  );
  const readAt = (at: { schema: string; name: string }) =>
    rows.find((row) => row.schema === at.schema && row.name === at.name)?.columns;
  const read = readAt(placed);
  if (!read) return [`${schema}.${name} is not there`];
  const open = new Set(columns.map((column) => column.name));
  const more = read.filter((column) => !open.has(column));
  const fewer = [...open].filter((column) => !read.includes(column));
  const past = placed.how === 'view' ? (readAt(table) ?? []) : [];
  return [
    ...(more.length > 0 ? [`${more.join(', ')} can be read, and is not to be`] : []),
    ...(fewer.length > 0 ? [`${fewer.join(', ')} cannot be read, and is to be`] : []),
    ...(past.length > 0 ? [`${past.join(', ')} of the table itself can be read, past the view`] : []),
  ];
}

/** How many rows readers should see, and some of them cell by cell. Read as the role that sees all. */
async function predicted(
  client: pg.Client,
  { table, columns, limits }: Placed,
  organisation: string,
  keys: ReadonlyMap<string, string>,
): Promise<{ count: number; rows: (string | null)[][] }> {
  const known = new Set(table.columns.map(({ name }) => name));
  const at = full(table.schema, table.name);
  const permitted = new Map<DecidedLimit, ReadonlySet<string>>();
  for (const limit of limits) permitted.set(limit, await permittedBy(client, limit));
  // The condition is told here by lists of values: another way than the view asks.
  const where = limits.map((limit, place) =>
    known.has(limit.column) ? `cast(t.${quoteIdentifier(limit.column)} as text) = any($${place + 1}::text[])` : 'false',
  );
  const { rows: counts } = await client.query<{ n: string }>(
    `select count(*) as n from ${at} as t${where.length > 0 ? ` where ${where.join(' and ')}` : ''}`,
    limits.map((limit) => [...(permitted.get(limit) ?? [])]),
  );
  const wanted = [...new Set([...columns.map(({ name }) => name), ...limits.map(({ column }) => column)])].filter(
    (name) => known.has(name),
  );
  const texts = wanted.map((name, place) => `cast(t.${quoteIdentifier(name)} as text) as "${place}"`).join(', ');
  const { rows: size } = await client.query<{ rows: number; sampled: boolean }>(
    "select reltuples::float8 as rows, relkind in ('r', 'm', 'p') as sampled from pg_class where oid = to_regclass($1)",
    [at],
  );
  const estimate = size[0]?.rows ?? 0;
  const drawn =
    size[0]?.sampled && estimate > MANY_ROWS
      ? `${at} as t tablesample system (${Math.max(0.001, (100 * 50 * SAMPLE) / estimate).toFixed(4)}) limit ${SAMPLE}`
      : `${at} as t order by random() limit ${SAMPLE}`;
  const { rows: sample } = await client.query<Record<string, string | null>>(`select ${texts} from ${drawn}`);
  const { rows: day } = await client.query<{ today: string }>('select cast(current_date as text) as today');
  const digest: Digest = (text, keyed) =>
    createHash('sha256')
      .update((keys.get(keyName(keyed, organisation)) ?? '') + text)
      .digest('hex');
  return {
    count: Number(counts[0]?.n),
    rows: sample
      .map((row): TrueRow => new Map(wanted.map((name, place) => [name, row[String(place)] ?? null])))
      .filter((row) => rowIsSeen({ limits, table }, row, (limit) => permitted.get(limit) ?? new Set()))
      .map((row) => predictedRow({ columns }, row, digest, day[0]?.today ?? '')),
  };
}

/** Values that a row limit permits. */
async function permittedBy(client: pg.Client, { values, through }: DecidedLimit): Promise<ReadonlySet<string>> {
  if (through === null) return new Set(values);
  const { rows } = await client.query<{ value: string | null }>(
    `select distinct cast(${quoteIdentifier(through.column)} as text) as value from ${full(through.schema, through.name)} where cast(${quoteIdentifier(through.reader)} as text) = any($1::text[])`,
    [values],
  );
  return new Set(rows.flatMap(({ value }) => (value === null ? [] : [value])));
}

/** Rows that readers do not get as they were worked out, told by the columns that differ. */
async function differingCells(
  client: pg.Client,
  { columns, schema, name }: Placed,
  rows: readonly (readonly (string | null)[])[],
): Promise<string[]> {
  if (rows.length === 0) return [];
  const cells = columns.map((column) => `cast(v.${quoteIdentifier(column.name)} as text)`);
  const from = `from ${full(schema, name)} as v`;
  const { rows: missing } = await client.query<{ place: number }>(
    `
      select e.place::int as place
      from jsonb_array_elements($1::jsonb) with ordinality as e(cells, place)
      where not exists (select from (select jsonb_build_array(${cells.join(', ')}) as cells ${from}) as r where r.cells = e.cells)
      order by 1`,
    [JSON.stringify(rows)],
  );
  if (missing.length === 0) return [];
  const differing = new Set<string>();
  for (const { place } of missing.slice(0, 5)) {
    const row = rows[place - 1];
    for (const [nth, column] of columns.entries()) {
      const { rows: found } = await client.query(`select ${from} where ${cells[nth]} is not distinct from $1 limit 1`, [
        row?.[nth] ?? null,
      ]);
      if (found.length === 0) differing.add(column.name);
    }
  }
  const where = differing.size > 0 ? `, by ${[...differing].join(', ')}` : '';
  return [`${missing.length} of ${rows.length} rows are read otherwise than they are to be${where}`];
}
