import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { SentCursor, SentRows } from '../src/access/rowsAsSent.ts';
import { urlOf } from './place.ts';

let client: pg.Client;
beforeAll(async () => {
  client = new pg.Client({ connectionString: urlOf('postgres') });
  await client.connect();
  await client.query(`
    create function pg_temp.said(n int) returns int language plpgsql as
    $$ begin raise notice 'at %', n; return n; end $$`);
});
afterAll(() => client.end());

const begin = (sql: string, values: (string | null)[] = []) =>
  client.query(new SentCursor(sql, values) as unknown as pg.Submittable) as unknown as SentCursor;

/** The values in messages of rows, by the protocol's own word. */
function valuesIn(bytes: Buffer): (string | null)[][] {
  const rows: (string | null)[][] = [];
  for (let at = 0; at < bytes.length; ) {
    expect(bytes[at]).toBe(0x44);
    const end = at + 1 + bytes.readInt32BE(at + 1);
    const row: (string | null)[] = [];
    for (let place = at + 7, left = bytes.readInt16BE(at + 5); left > 0; left -= 1) {
      const length = bytes.readInt32BE(place);
      row.push(length < 0 ? null : bytes.toString('utf8', place + 4, place + 4 + length));
      place += 4 + Math.max(0, length);
    }
    rows.push(row);
    at = end;
  }
  return rows;
}
const plainly = async (sql: string, values: (string | null)[] = []) =>
  (
    await client.query({
      text: sql,
      values,
      rowMode: 'array',
      types: { getTypeParser: () => (value: string) => value } as never,
    })
  ).rows;

async function all(cursor: SentCursor, most: number): Promise<(string | null)[][]> {
  const found: (string | null)[][] = [];
  for (;;) {
    const rows = await cursor.read(most);
    found.push(...valuesIn(rows.bytes));
    if (rows.length < most) return found;
  }
}

describe('rows as the source sends them', () => {
  it.each([
    ['none', 'select 1 where false', []],
    ['one without columns', 'select', []],
    ['few', "select i, null, 'æ' || i, i::numeric / 3 from generate_series(1, 10) i", []],
    ['with values', 'select $1::text, $2::int + i from generate_series(1, 3) i', ['“x”', '4']],
    ['many small', 'select i from generate_series(1, 30000) i', []],
    ['larger than what comes at once', "select i, repeat('ø', 700000) from generate_series(1, 5) i", []],
    ['with notices between', 'select pg_temp.said(i) from generate_series(1, 40) i', []],
  ] as [string, string, (string | null)[]][])('are the rows that the driver reads: %s', async (_, sql, values) => {
    const expected = await plainly(sql, values);
    for (const most of [1, 7, 40_000]) {
      if (most === 1 && expected.length > 100) continue;
      const cursor = begin(sql, values);
      expect(await all(cursor, most)).toEqual(expected);
      expect(cursor.fields).toHaveLength(expected[0]?.length ?? cursor.fields.length);
      // What is read after the end is nothing, and the connection is the driver's again.
      expect((await cursor.read(5)).length).toBe(0);
      expect(await plainly('select 1')).toEqual([['1']]);
    }
  });

  it('end with what fails, and leave the connection to the driver', async () => {
    const cursor = begin('select 10 / (4 - i) from generate_series(1, 9) i');
    expect(valuesIn((await cursor.read(2)).bytes)).toEqual([['3'], ['5']]);
    await expect(cursor.read(5)).rejects.toMatchObject({ code: '22012' });
    await expect(cursor.read(5)).rejects.toMatchObject({ code: '22012' });
    await cursor.close();
    expect(await plainly('select 1')).toEqual([['1']]);
    const wrong = begin('select nothing from nowhere');
    await expect(wrong.read(1)).rejects.toMatchObject({ code: '42P01' });
    expect(await plainly('select 2')).toEqual([['2']]);
  });

  it('are given up before their end', async () => {
    const cursor = begin("select i, repeat('x', 1000) from generate_series(1, 1000000) i");
    expect((await cursor.read(10)).length).toBe(10);
    await cursor.close();
    await cursor.close();
    expect(await plainly('select 3')).toEqual([['3']]);
    const never = begin('select 1');
    await never.read(1);
    await never.close();
    expect(await plainly('select 4')).toEqual([['4']]);
  });

  it('fail when the connection is lost', async () => {
    const other = new pg.Client({ connectionString: urlOf('postgres') });
    other.on('error', () => undefined); // told by what fails
    await other.connect();
    const cursor = other.query(
      new SentCursor('select pg_sleep(60), i from generate_series(1, 2) i', []) as unknown as pg.Submittable,
    ) as unknown as SentCursor;
    const read = cursor.read(1);
    const { processID } = other as unknown as { processID: number };
    await client.query('select pg_terminate_backend($1)', [processID]);
    await expect(read).rejects.toBeInstanceOf(Error);
    await other.end().catch(() => undefined);
  });

  it('are cut without a copy', () => {
    const bytes = Buffer.from('aabbbc');
    const rows = new SentRows(bytes, [2, 5, 6]);
    expect([rows.length, rows.bytes.toString()]).toEqual([3, 'aabbbc']);
    const [first, rest] = [rows.slice(0, 1), rows.slice(1, 3)];
    expect([first.bytes.toString(), rest.bytes.toString()]).toEqual(['aa', 'bbbc']);
    expect(rest.slice(1, 9).bytes.toString()).toBe('c');
    expect([rest.slice(1, 9).length, rows.slice(0, 0).length, rows.slice(0, 0).bytes.length]).toEqual([1, 0, 0]);
  });
});
