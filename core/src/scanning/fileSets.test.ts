import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { groupFiles, mergeSchemas, spread } from './index.ts';

const file = (path: string, format: string | null = path.split('.').at(-1) ?? null) => ({
  names: path.split('/'),
  format,
  bytes: 1,
});
const grouped = (...paths: string[]) => {
  const { sets, single } = groupFiles(paths.map((path) => file(path)));
  return {
    sets: sets.map((set) => [[...set.folder, set.pattern].join('/'), set.parts.length, set.keys.join(',')]),
    single: single.map((entry) => entry.names.join('/')).sort(),
  };
};

describe('file sets', () => {
  it('are made of what lies below key=value folders, with the values', () => {
    const { sets } = groupFiles(
      [
        'counts/year=2026/month=05/part-0001.parquet',
        'counts/year=2025/month=12/part-0001.parquet',
        'counts/year=2026/month=a%20b/part-0002.parquet',
      ].map((path) => file(path)),
    );
    expect(sets).toHaveLength(1);
    expect(sets[0]).toMatchObject({
      folder: ['counts'],
      pattern: 'year=*/month=*/part-*.parquet',
      keys: ['year', 'month'],
    });
    expect(sets[0]?.parts.map((part) => part.values)).toEqual([
      ['2025', '12'],
      ['2026', '05'],
      ['2026', 'a b'],
    ]);
  });

  it.each([
    [
      'three files that differ by a number',
      ['log/app-1.csv', 'log/app-2.csv', 'log/app-10.csv'],
      [['log/app-*.csv', 3, '']],
      [],
    ],
    ['dates and times', ['2026-05-01T10_00.json', '2026-05-02T10_00.json', '2026-05-03.json'], [['*.json', 3, '']], []],
    [
      'UUIDs',
      [
        'a-0e984725-c51c-4bf4-9960-e1c80e27aba0.csv',
        'a-1e984725-c51c-4bf4-9960-e1c80e27aba0.csv',
        'a-2e984725-c51c-4bf4-9960-e1c80e27aba0.csv',
      ],
      [['a-*.csv', 3, '']],
      [],
    ],
    ['two files are two files', ['log/app-1.csv', 'log/app-2.csv'], [], ['log/app-1.csv', 'log/app-2.csv']],
    [
      'names of their own are files',
      ['tarnholm.csv', 'ulvey.csv', 'kessgar.csv'],
      [],
      ['kessgar.csv', 'tarnholm.csv', 'ulvey.csv'],
    ],
    ['folders keep files apart', ['a/x1.csv', 'b/x2.csv', 'c/x3.csv'], [], ['a/x1.csv', 'b/x2.csv', 'c/x3.csv']],
    ['formats keep files apart', ['x1.csv', 'x2.json', 'x3.parquet'], [], ['x1.csv', 'x2.json', 'x3.parquet']],
    ['endings are no numbers', ['a.csv.1', 'b.csv.2', 'c.csv.3'], [], ['a.csv.1', 'b.csv.2', 'c.csv.3']],
    ['one part of a set stays a file', ['d=1/x.csv'], [], ['d=1/x.csv']],
  ])('%s', (_, paths, sets, single) => {
    expect(grouped(...paths)).toEqual({ sets, single });
  });

  it('leave files alone whose columns are not read', () => {
    expect(
      groupFiles(['letter 1.txt', 'letter 2.txt', 'letter 3.txt'].map((path) => file(path, null))).single,
    ).toHaveLength(3);
  });

  it('lose no file and use none twice', () => {
    const name = fc.constantFrom(
      'a',
      'b1',
      'b2',
      'b3',
      'k=1',
      'k=2',
      'x-2026-01-01.csv',
      'x-2026-01-02.csv',
      'x-2026-01-03.csv',
      'y.parquet',
    );
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.array(name, { minLength: 1, maxLength: 4 }), {
          maxLength: 30,
          selector: (names) => names.join('/'),
        }),
        (paths) => {
          const files = paths.map((names) => file(names.join('/')));
          const { sets, single } = groupFiles(files);
          const all = [...single, ...sets.flatMap((set) => set.parts.map((part) => part.file))]
            .map((entry) => entry.names.join('/'))
            .sort();
          expect(all).toEqual(files.map((entry) => entry.names.join('/')).sort());
        },
      ),
    );
  });
});

describe('schemas of parts', () => {
  const columns = (text: string) =>
    text.split(' ').map((entry) => ({ name: entry.split(':')[0] ?? '', type: entry.split(':')[1] ?? '' }));

  it('are put together, and what differs from the newest is told', () => {
    const { columns: all, variants } = mergeSchemas([
      { part: '2024', columns: columns('id:int old:text at:text') },
      { part: '2025', columns: columns('id:int old:text at:text') },
      { part: '2026', columns: columns('id:bigint at:date') },
      { part: '2027', columns: columns('id:int at:date') },
    ]);
    expect(all.map((column) => `${column.name}:${column.type}`)).toEqual(['id:int', 'at:date', 'old:text']);
    expect(variants).toEqual([
      { part: '2024', parts: 2, differences: ['+ old text', 'at: text → date'] },
      { part: '2026', parts: 1, differences: ['id: bigint → int'] },
    ]);
  });

  it('are one when all are the same', () => {
    expect(
      mergeSchemas([
        { part: 'a', columns: columns('x:int') },
        { part: 'b', columns: columns('x:int') },
      ]),
    ).toEqual({ columns: columns('x:int'), variants: [] });
    expect(mergeSchemas([])).toEqual({ columns: [], variants: [] });
  });
});

describe('some of many', () => {
  it('always has the first and the last', () => {
    expect(spread([1, 2, 3], 8)).toEqual([1, 2, 3]);
    const some = spread(
      Array.from({ length: 1000 }, (_, index) => index),
      5,
    );
    expect(some).toEqual([0, 250, 500, 749, 999]);
  });
});
