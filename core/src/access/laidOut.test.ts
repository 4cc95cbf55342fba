import { beforeAll, describe, expect, it } from 'vitest';
import { loadParser } from '../sql/index.ts';
import { policyOf, readerOf, tableOf } from '../testing/policies.ts';
import { decideTable, fitsLaid, laidOut, laidType, namesMeant, type Policy } from './index.ts';

beforeAll(() => loadParser());

describe('types', () => {
  it.each([
    ['int', 'bigint'],
    ['INTEGER', 'bigint'],
    ['tinyint(1)', 'bigint'],
    ['bigint(20) unsigned', 'numeric'],
    ['hugeint', 'numeric'],
    ['numeric(4, 1)', 'numeric'],
    ['double', 'double precision'],
    ['float', 'double precision'],
    ['boolean', 'boolean'],
    ['date', 'date'],
    ['datetime', 'timestamp without time zone'],
    ['timestamp with time zone', 'timestamp with time zone'],
    ['time', 'text'],
    ['varchar(20)', 'text'],
    ['any', 'text'],
    ['', 'text'],
    ['bigint[]', 'text'],
    ['struct(a bigint)', 'text'],
    ['interval', 'text'],
    ['point', 'text'],
  ])('%s is laid out as %s', (written, type) => {
    expect(laidType(written)).toBe(type);
  });

  it.each([
    ['bigint', ['0', '-5', '+7', '007', '9223372036854775807'], ['', ' 1', '1.0', '9223372036854775808', '1e3', 'x']],
    ['numeric', ['1.50', '.5', '5.', '-1e10'], ['', '.', '1,5', 'NaN', '1e9999']],
    ['double precision', ['1e300', 'inf', 'nan', '0e-999', '0.0'], ['1e999', '1e-320', '', '1 2']],
    ['boolean', ['true', 'F', '0', '1'], ['yes', '2', '']],
    ['date', ['2024-02-29', '0001-01-01'], ['2023-02-29', '0000-00-00', '2024-13-01', '2024-01-01 00:00:00', '']],
    [
      'timestamp without time zone',
      ['2024-02-29 23:59', '2024-02-29T10:00:00.5Z'],
      ['2024-02-29', '2024-02-29 24:00:00', '0000-00-00 00:00:00'],
    ],
    ['text', ['', 'ø', '\n'], ['a\0b']],
  ] as const)('%s takes what is one, and nothing else', (type, fitting, odd) => {
    expect(fitting.filter((value) => !fitsLaid(type, value))).toEqual([]);
    expect(odd.filter((value) => fitsLaid(type, value))).toEqual([]);
  });
});

describe('what is laid out of a table', () => {
  const table = tableOf('crew', { id: 'int', born: 'date', port: 'varchar', note: 'text' });
  const out = (policies: readonly Partial<Policy>[], meant: readonly string[] | null = null) =>
    laidOut(
      decideTable(
        policies.map((one, n) => policyOf({ id: `${n}`, name: `${n}`, effect: 'protect', assets: ['crew'], ...one })),
        readerOf(),
        table,
      ),
      { path: 'office/crew', key: 'top\u001foffice\u001fcrew' },
      3,
      meant && new Set(meant),
    );
  const allow: Partial<Policy> = { effect: 'allow' };

  it('is what its reader may read, and no column that is refused', () => {
    const { table: laid, decision } = out([allow, { effect: 'deny', columns: ['note'] }], ['born', 'note', 'x']);
    expect(laid.columns.map(({ name, type }) => `${name} ${type}`)).toEqual(['id bigint', 'born date', 'port text']);
    expect(laid.wanted).toEqual(['born']);
    expect(decision).toMatchObject({
      schema: 'public',
      name: 'office/crew',
      lies: { schema: 'pg_temp', name: 'idrel_laid_3' },
    });
  });

  it('is only the rows that they may see: nothing is left to be limited', () => {
    const rows = { column: 'port', values: ['Ulvey'], attribute: null, through: null };
    const { table: laid, decision } = out([allow, { rows }], ['id']);
    expect([laid.only, laid.wanted, decision.rowLimits]).toEqual([[{ column: 'port', values: ['Ulvey'] }], ['id'], []]);
    const gone = out([allow, { rows: { ...rows, column: 'gone' } }]);
    expect(gone.table.only).toEqual([{ column: 'gone', values: [] }]);
  });

  it('has what is counted, also where it is refused, and says nothing of what does not fit', () => {
    const { table: laid, decision } = out(
      [
        { ...allow, columns: ['port'] },
        { rows: { column: 'id', values: [], attribute: null, through: null, least: 4 } },
      ],
      ['port'],
    );
    expect(laid.columns.map(({ name, plain }) => [name, plain])).toEqual([
      ['id', false],
      ['port', false],
    ]);
    expect(laid.wanted).toEqual(['id', 'port']);
    expect(decision.rowLimits).toMatchObject([{ column: 'id', least: 4 }]);
    // Of a column of which its reader is told nothing, too: what limits rows is looked at, and what is counted is laid out.
    const outside = laidOut(
      {
        ...decision,
        columns: decision.columns.filter(({ name }) => name === 'port'),
        untold: ['id', 'born', 'note'],
        rowLimits: [
          ...decision.rowLimits,
          { column: 'note', values: ['a'], through: null, reason: { policyId: 'x', policy: 'x', effect: 'protect' } },
        ],
      },
      { path: 'crew', key: '' },
      1,
      null,
    ).table;
    expect(outside.columns.map(({ name, type }) => `${name} ${type}`)).toEqual(['port text', 'id text']);
    expect(outside.only).toEqual([{ column: 'note', values: ['a'] }]);
  });
});

describe('names that a statement may mean columns by', () => {
  const columns = new Set(['id', 'born', 'port', 'note']);
  const meant = (sql: string) => {
    const names = namesMeant(sql, columns);
    return names && [...columns].filter((name) => names.has(name));
  };
  it.each([
    ['select id from crew where born is null order by port', ['id', 'born', 'port']],
    ['select count(*) from crew', []],
    ['select c.id from crew c join other o using (port)', ['id', 'port']],
    ['select lower(c.port) from crew c', ['port']],
  ])('%s', (sql, expected) => {
    expect(meant(sql)).toEqual(expected);
  });
  it.each([
    'select * from crew',
    'select c.* from crew c',
    'table crew',
    'select crew from crew',
    'select row_to_json(c) from crew c',
    'select c.row_to_json from crew c',
    'select (c).id from crew c',
    'select id from crew natural join other',
    'select a from crew c(a, b)',
    'select x from (select * from crew) x',
  ])('may mean all: %s', (sql) => {
    expect(meant(sql)).toBeNull();
  });
});
