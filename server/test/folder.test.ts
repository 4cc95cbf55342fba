import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { DuckDBInstance } from '@duckdb/node-api';
import { CONNECTORS, KEY_SEPARATOR, type Reading, type Structure } from '@idrel/readers/connectors';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const root = mkdtempSync(join(tmpdir(), 'idrel-voyage-'));
const top = basename(root);
let reading: Reading;
let structure: Structure;

const put = (path: string, content: string | Buffer) => {
  mkdirSync(dirname(join(root, path)), { recursive: true });
  writeFileSync(join(root, path), content);
};
beforeAll(async () => {
  const duck = await (await DuckDBInstance.create(':memory:')).connect();
  const part = async (path: string, select: string) => {
    mkdirSync(dirname(join(root, path)), { recursive: true });
    await duck.run(
      `copy (${select}) to '${join(root, path)}' (${path.includes('.parquet') ? 'format parquet' : `format csv, header${path.endsWith('.zst') ? ', compression zstd' : ''}`})`,
    );
  };
  for (const month of ['01', '02', '03'])
    await part(
      `counts/year=2025/month=${month}/part-0001.parquet`,
      `select i as id, 'r' || i as route from range(100) t(i)`,
    );
  await part(
    'counts/year=2026/month=01/part-0001.parquet',
    `select i::int as id, 'r' || i as route, 'p' || i || '@example.org' as contact from range(100) t(i)`,
  );
  await part('packed/ports.csv.zst', "select 'Ulvey' as port, 58.97 as lat");
  put('packed/fares.csv.gz', gzipSync('band,price\nA,12\nB,15\n'));
  put('packed/events.ndjson.gz', gzipSync('{"at":"2026-01-01","who":"x"}\n{"at":"2026-01-02","who":"y"}\n'));
  put('broken/whole.parquet', 'this is no parquet');
  put(
    'broken/wide.csv',
    `${Array.from({ length: 9000 }, (_, at) => `g${at}`).join(',')}\n${Array.from({ length: 9000 }, () => '0.5').join(',')}\n`,
  );
  put('letters/note.txt', 'Dear Sir or Madam');
  mkdirSync(join(root, 'empty'));
  symlinkSync('/etc/passwd', join(root, 'letters/way-out.csv'));
  for (let index = 0; index < 2000; index += 1) put(`gauge/reading-${index}.csv`, `at,height\n2026-01-01,${index}\n`);
  reading = await CONNECTORS.folder.open({ name: 'Files', address: { path: root }, secret: null });
  structure = await reading.structure(() => undefined);
});
afterAll(async () => {
  await reading?.close();
  rmSync(root, { recursive: true, force: true });
});

const short = (key: string) => key.split(KEY_SEPARATOR).slice(1).join('/');
const asset = (path: string) => structure.assets.find((entry) => short(entry.key) === path);
const columns = (path: string) =>
  structure.assets
    .filter((entry) => entry.kind === 'column' && short(entry.parentKey ?? '') === path)
    .map((entry) => entry.name);
const sample = async (path: string, rows: number) => {
  const table = structure.sampleable.find((entry) => entry.label === path);
  if (!table) throw new Error(`${path} cannot be sampled`);
  const { values } = await reading.sample(table, rows);
  return Object.fromEntries(table.columns.map((column, index) => [column.name, values[index] ?? []]));
};
/** The names of a file as the catalog has them: a set is one name below its folder. */
const pathNames = (path: string) => (path === COUNTS ? ['counts', path.slice('counts/'.length)] : path.split('/'));
const COUNTS = 'counts/year=*/month=*/part-*.parquet';

describe('a folder of files', () => {
  it('shows parts of one dataset as one file set, and single files as files', () => {
    expect(
      structure.assets
        .filter((entry) => entry.kind !== 'column')
        .map((entry) => [entry.kind, short(entry.key)])
        .sort(),
    ).toEqual([
      ['file set', COUNTS],
      ['file set', 'gauge/reading-*.csv'],
      ['file', 'broken/whole.parquet'],
      ['file', 'broken/wide.csv'],
      ['file', 'letters/note.txt'],
      ['file', 'packed/events.ndjson.gz'],
      ['file', 'packed/fares.csv.gz'],
      ['file', 'packed/ports.csv.zst'],
      ['folder', ''],
      ['folder', 'broken'],
      ['folder', 'counts'],
      ['folder', 'empty'],
      ['folder', 'gauge'],
      ['folder', 'letters'],
      ['folder', 'packed'],
    ]);
    expect(structure.assets[0]?.name).toBe(top);
  });

  it('puts the columns of parts together with the keys of their folders, and tells what differs', () => {
    expect(columns(COUNTS)).toEqual(['year', 'month', 'id', 'route', 'contact']);
    expect(asset(COUNTS)).toMatchObject({
      native: {
        format: 'parquet',
        partitionedBy: 'year, month',
        variants: [
          {
            part: 'counts/year=2025/month=01/part-0001.parquet',
            parts: 3,
            differences: ['- contact', 'id: bigint → integer'],
          },
        ],
      },
      stats: { files: 4, rows: 400 },
    });
    expect(asset('gauge/reading-*.csv')).toMatchObject({ stats: { files: 2000, lookedInto: 8 } });
    expect(asset('gauge/reading-*.csv')?.native.variants).toBeUndefined();
  });

  it('samples from parts, and gives keys the values of their folders', async () => {
    const values = await sample(COUNTS, 40);
    expect(new Set(values.year)).toEqual(new Set(['2025', '2026']));
    expect(new Set(values.month)).toEqual(new Set(['01', '02', '03']));
    expect(values.id?.length).toBe(40);
    expect(values.contact).toHaveLength(10);
    expect(values.contact?.every((value) => /^p\d+@example\.org$/.test(value ?? ''))).toBe(true);
  });

  it('gives the first rows of one file, or of the parts of a set from the last one on, row by row', async () => {
    const rows = (path: string, columns: string[], only: { column: string; values: string[] }[] = [], most = 2) =>
      reading.rows?.({ names: pathNames(path), columns, only, most });
    expect(await rows('packed/fares.csv.gz', ['price', 'band'])).toEqual({
      rows: [
        ['12', 'A'],
        ['15', 'B'],
      ],
    });
    expect((await rows('packed/events.ndjson.gz', ['who'], [{ column: 'who', values: ['y'] }]))?.rows).toEqual([['y']]);
    // A column that only the newest part has stands beside the others of its own rows, and the keys of folders beside both.
    const newest = { column: 'year', values: ['2026'] };
    expect((await rows(COUNTS, ['contact', 'month', 'id', 'year'], [newest]))?.rows).toEqual([
      ['p0@example.org', '01', '0', '2026'],
      ['p1@example.org', '01', '1', '2026'],
    ]);
    const older = { column: 'year', values: ['2025'] };
    expect((await rows(COUNTS, ['contact', 'id', 'month'], [older]))?.rows).toEqual([
      [null, '0', '03'],
      [null, '1', '03'],
    ]);
    expect((await rows(COUNTS, ['route'], [{ column: 'contact', values: ['p5@example.org'] }]))?.rows).toEqual([
      ['r5'],
    ]);
    // Rows that are rare in a set of many parts are looked for in some of them, which is said.
    expect(await rows('gauge/reading-*.csv', ['height'], [{ column: 'height', values: ['none'] }])).toEqual({
      rows: [],
      lookedInto: { parts: 20, of: 2000 },
    });
    for (const [path, words] of [
      ['packed/nothing.csv', 'no longer there'],
      ['broken/whole.parquet', 'cannot be read'],
      ['letters/way-out.csv', 'no longer there'],
      ['../../etc/passwd', 'no longer there'],
      ['packed/../packed/fares.csv.gz', 'no longer there'],
    ] as const)
      await expect(rows(path, ['root']), path).rejects.toThrow(words);
  });

  it('reads what is compressed with gzip and zstd', async () => {
    expect(columns('packed/ports.csv.zst')).toEqual(['port', 'lat']);
    expect(await sample('packed/ports.csv.zst', 5)).toEqual({ port: ['Ulvey'], lat: ['58.97'] });
    expect([...((await sample('packed/fares.csv.gz', 5)).price ?? [])].sort()).toEqual(['12', '15']);
    expect([...((await sample('packed/events.ndjson.gz', 5)).who ?? [])].sort()).toEqual(['x', 'y']);
  });

  it('says of a broken file that it is broken, and goes on', () => {
    expect(asset('broken/whole.parquet')?.native.problem).toMatch(/parquet|magic|size/i);
    expect(columns('broken/whole.parquet')).toEqual([]);
    expect(asset('broken/wide.csv')?.native.problem).toMatch(/more memory .* thousands of columns/);
  });

  it('follows no link, and names everything that a plan can choose', async () => {
    expect(structure.assets.some((entry) => entry.name === 'way-out.csv')).toBe(false);
    const outline = await reading.outline();
    expect(outline).toContainEqual({ path: COUNTS, kind: 'file set' });
    expect(outline.some((item) => item.path.includes('way-out'))).toBe(false);
    expect(outline.map((item) => item.path)).toEqual(
      structure.assets
        .filter((entry) => entry.kind !== 'column' && entry.parentKey !== null)
        .map((entry) => short(entry.key))
        .sort(),
    );
  });
});
