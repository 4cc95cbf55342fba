import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { loadParser, parseOne } from '../sql/index.ts';
import { RefusedStatement } from './refused.ts';
import { rewriteCatalog } from './shownCatalog.ts';
import type { ShownCatalog } from './shownRows.ts';

beforeAll(() => loadParser());

const SHOWN: ShownCatalog = {
  database: 'The Shop',
  user: 'Rune',
  tables: [
    {
      id: '1a2b3c4d-0000-4000-8000-000000000001',
      schema: 'shop',
      name: 'person',
      kind: 'table',
      comment: null,
      columns: [
        { name: 'id', type: 'integer', nullable: false, comment: null },
        { name: 'name', type: 'character varying(40)', nullable: true, comment: 'As in the passport' },
        { name: 'pay', type: 'numeric(9,2)', nullable: true, comment: null },
      ],
    },
    // Of a number that begins alike: the two must be told apart.
    {
      id: '1a2b3c4d-0000-4000-8000-000000000002',
      schema: 'shop',
      name: 'visit',
      kind: 'view',
      comment: null,
      columns: [],
    },
  ],
};
const rewrite = (sql: string, shown: ShownCatalog = SHOWN) => rewriteCatalog(sql, async () => shown);
/** Texts that stand in a statement as constants and are JSON. */
function told(sql: string | null): unknown[] {
  const out: unknown[] = [];
  const look = (value: unknown): void => {
    if (Array.isArray(value)) for (const one of value) look(one);
    else if (value && typeof value === 'object')
      for (const [key, inner] of Object.entries(value)) {
        const text = key === 'sval' ? (inner as { sval?: string }).sval : undefined;
        if (text?.startsWith('[')) out.push(JSON.parse(text));
        look(inner);
      }
  };
  look(parseOne(sql ?? 'select'));
  return out;
}

describe('a question about the catalog', () => {
  it.each([
    'select 1',
    'select id from shop.person',
    'select now(), current_date',
    'with pg_mine as (select 1 as n) select n from pg_mine',
    'select c.relname from pg_class c, shop.person p',
    'insert into pg_class values (1)',
    'select from where pg_class',
  ])('is none: %s', async (sql) => {
    expect(await rewrite(sql)).toBeNull();
  });

  it('is answered with what is shown, and by nothing of the source but the shapes of its relations', async () => {
    const sql = await rewrite('select relname from pg_class where relnamespace > 0');
    expect(sql).toContain('json_populate_recordset(CAST(NULL AS pg_catalog.pg_class)');
    expect(told(sql)).toMatchObject([
      [
        { relname: 'person', relkind: 'r', relnatts: 3 },
        { relname: 'visit', relkind: 'v' },
      ],
    ]);
    const [[first, second] = []] = told(sql) as { oid: number }[][];
    expect(first?.oid).toBe(0x9a2b3c4d);
    expect(second?.oid).toBe(0x9a2b3c4e);
    expect(await rewrite('select * from pg_stat_activity')).toMatch(/FROM pg_catalog\.pg_stat_activity WHERE false/i);
    expect(await rewrite('select oid from pg_type')).toMatch(/WHERE oid < 16384/i);
  });

  it('tells types as every PostgreSQL numbers them, and writes the columns of those tables alone that it names', async () => {
    const [columns] = told(await rewrite('select attname from pg_attribute')) as object[][];
    expect(columns).toMatchObject([
      { attname: 'id', atttypid: 23, atttypmod: -1, attnotnull: true },
      { attname: 'name', atttypid: 1043, atttypmod: 44 },
      { attname: 'pay', atttypid: 1700, atttypmod: ((9 << 16) | 2) + 4 },
    ]);
    expect(told(await rewrite("select attname from pg_attribute where attrelid = '2586524750'"))).toEqual([[]]);
  });

  it('about who is connected is answered under the name that it would have had', async () => {
    const sql = await rewrite('select version(), current_user, current_database() as here');
    expect(sql).toMatch(/AS version.*'Rune'.*AS "?current_user"?.*'The Shop'.*AS here/i);
  });

  it.each([
    ['select pg_read_file(relname) from pg_class', 'function'],
    ['select relname::shop.mood from pg_class', 'construct'],
    ['select xpath(relname, null) from pg_class', 'function'],
    ['select * from pg_class for update', 'construct'],
    ['select * from pg_catalog."pg class"', 'unknown-table'],
  ])('that asks for more is refused: %s', async (sql, code) => {
    await expect(rewrite(sql)).rejects.toSatisfy((error) => error instanceof RefusedStatement && error.code === code);
  });

  it('whatever names and texts are shown, they are values of what is asked', async () => {
    const name = fc.string({ unit: 'grapheme', minLength: 1, maxLength: 12 }).filter((text) => !text.includes('\0'));
    await fc.assert(
      fc.asyncProperty(name, name, name, name, async (database, schema, table, comment) => {
        const shown: ShownCatalog = {
          database,
          user: comment,
          tables: [
            { id: '1a2b3c4d-0000-4000-8000-000000000001', schema, name: table, kind: 'table', comment, columns: [] },
          ],
        };
        const sql = await rewrite('select table_name, current_user from information_schema.tables', shown);
        expect(told(sql)).toMatchObject([[{ table_catalog: database, table_schema: schema, table_name: table }]]);
        expect(told(await rewrite('select description from pg_description', shown))).toMatchObject([
          [{ description: comment }],
        ]);
      }),
    );
  });
});
