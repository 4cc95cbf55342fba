import { mkdirSync, mkdtempSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { DuckDBInstance } from '@duckdb/node-api';
import { CONNECTORS, type ConnectorInput, KEY_SEPARATOR, type Structure } from '@idrel/readers/connectors';
import { type StoreKey, startStandIns } from '@idrel/standins';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const folder = mkdtempSync(join(tmpdir(), 'idrel-store-'));
const KEYS: Record<string, StoreKey> = {
  READER: { secret: 'a/secret+of=40', list: ['shore', 'empty', 'many'], read: ['shore', 'many'] },
  LISTER: { secret: 'only lists', list: ['shore'], read: [] },
  NOBODY: { secret: 'sees nothing', list: [], read: [] },
};
let server: Server;
let url: string;

const put = (key: string, content: string | Buffer) => {
  const path = join(folder, 'store', key);
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, content);
};
const input = (
  more: Record<string, string> = {},
  key = 'READER',
  secret = KEYS[key]?.secret ?? '',
): ConnectorInput => ({
  name: 'Shore store',
  address: { url, bucket: 'shore', prefix: '', region: 'eu-north-1', ...more },
  secret: { username: key, password: secret },
});
const failed = async (asked: ConnectorInput) =>
  (await CONNECTORS.objects.test(asked)).find((step) => step.state === 'failed');
const paths = (structure: Structure, kind: string) =>
  structure.assets
    .filter((asset) => asset.kind === kind)
    .map((asset) => asset.key.split(KEY_SEPARATOR).slice(1).join('/'))
    .sort();

beforeAll(async () => {
  put('keys.json', JSON.stringify(KEYS));
  for (let day = 1; day <= 5; day += 1)
    put(
      `shore/tills/day=2026-05-0${day}/till.ndjson.gz`,
      gzipSync(
        Array.from({ length: 20 }, (_, row) => `{"receipt":${day * 100 + row},"card":"4111 1111 1111 1111"}\n`).join(
          '',
        ),
      ),
    );
  put('shore/invoices/harbour dues, März.csv', 'invoice,payer\n1,anna@example.org\n2,bo@example.org\n');
  put('shore/invoices/a+b&c=d.csv', 'x\n1\n');
  put(
    'shore/large.csv',
    `id,email\n${Array.from({ length: 400_000 }, (_, row) => `${row},person${row}@example.org`).join('\n')}\n`,
  );
  put('shore/note.txt', 'hello');
  put('shore/broken.parquet', 'no parquet');
  mkdirSync(join(folder, 'store/empty'), { recursive: true });
  for (let file = 0; file < 2300; file += 1) put(`many/f${file}.txt`, '');
  const duck = await (await DuckDBInstance.create(':memory:')).connect();
  await duck.run(
    `copy (select i as id, 'r' || i as route from range(100) t(i)) to '${join(folder, 'store/shore/counts.parquet')}' (format parquet)`,
  );
  const started = await startStandIns(folder, 0);
  server = started.server;
  url = `http://127.0.0.1:${started.port}/store`;
});
afterAll(() => {
  server?.close();
  rmSync(folder, { recursive: true, force: true });
});

describe('an object store', () => {
  it('is tested step by step, and each wrong thing is named with what mends it', async () => {
    expect((await CONNECTORS.objects.test(input())).map((step) => [step.step, step.state])).toEqual(
      ['Resolve', 'Connect', 'Authenticate', 'Rights to read the catalog', 'Rights to read data'].map((step) => [
        step,
        'passed',
      ]),
    );
    expect(await failed(input({ url: 'http://no-such-host.invalid:9000' }))).toMatchObject({
      step: 'Resolve',
      detail: expect.stringContaining('is not known'),
    });
    expect(await failed(input({ url: 'http://127.0.0.1:1' }))).toMatchObject({
      step: 'Connect',
      detail: 'Nothing listens at 127.0.0.1:1.',
    });
    expect(await failed(input({}, 'STRANGER', 'x'))).toMatchObject({
      step: 'Authenticate',
      detail: expect.stringContaining('does not know the key'),
    });
    expect(await failed(input({}, 'READER', 'wrong'))).toMatchObject({
      step: 'Authenticate',
      detail: expect.stringContaining('its secret is another one'),
    });
    expect(await failed(input({ bucket: 'elsewhere' }))).toMatchObject({
      step: 'Authenticate',
      detail: 'There is no bucket elsewhere in this store.',
    });
    const listing = await failed(input({}, 'NOBODY'));
    expect(listing).toMatchObject({ step: 'Rights to read the catalog' });
    expect(JSON.parse(listing?.mend ?? '').Statement[0]).toEqual({
      Effect: 'Allow',
      Action: ['s3:ListBucket'],
      Resource: ['arn:aws:s3:::shore'],
    });
    expect(await failed(input({}, 'LISTER'))).toMatchObject({
      step: 'Rights to read data',
      mend: expect.stringContaining('s3:GetObject'),
    });
    expect(await failed({ ...input(), secret: null })).toMatchObject({
      step: 'Authenticate',
      mend: expect.stringContaining('key pair'),
    });
    expect((await CONNECTORS.objects.test(input({ bucket: 'empty' }))).at(-1)).toMatchObject({
      state: 'passed',
      detail: 'There is no object yet to try.',
    });
  });

  it('holds files and file sets, read where they are looked into', async () => {
    const reading = await CONNECTORS.objects.open(input());
    try {
      const structure = await reading.structure(() => undefined);
      expect(paths(structure, 'file set')).toEqual(['tills/day=*/till.ndjson.gz']);
      expect(paths(structure, 'file')).toEqual([
        'broken.parquet',
        'counts.parquet',
        'invoices/a+b&c=d.csv',
        'invoices/harbour dues, März.csv',
        'large.csv',
        'note.txt',
      ]);
      expect(paths(structure, 'folder')).toEqual(['', 'invoices', 'tills']);
      const asset = (path: string) =>
        structure.assets.find((entry) => entry.key.split(KEY_SEPARATOR).slice(1).join('/') === path);
      expect(asset('broken.parquet')?.native.problem).toMatch(/parquet|magic|size/i);
      expect(asset('counts.parquet')?.stats.rows).toBe(100);
      const sample = async (path: string) => {
        const table = structure.sampleable.find((entry) => entry.label === path);
        if (!table) throw new Error(`${path} cannot be sampled`);
        const { values } = await reading.sample(table, 40);
        return Object.fromEntries(table.columns.map((column, index) => [column.name, values[index]]));
      };
      expect(new Set((await sample('tills/day=*/till.ndjson.gz')).day)).toEqual(
        new Set(['2026-05-01', '2026-05-02', '2026-05-03', '2026-05-04', '2026-05-05']),
      );
      expect([...((await sample('invoices/harbour dues, März.csv')).payer ?? [])].sort()).toEqual([
        'anna@example.org',
        'bo@example.org',
      ]);
      const { email } = await sample('large.csv');
      expect(email).toHaveLength(40);
      expect(email?.every((value) => /^person\d+@example\.org$/.test(value ?? ''))).toBe(true);
    } finally {
      await reading.close();
    }
  });

  it('gives the first rows of one object, or of the parts of a set, without listing the rest', async () => {
    const reading = await CONNECTORS.objects.open(input());
    try {
      const rows = (names: string[], columns: string[], only: { column: string; values: string[] }[] = []) =>
        reading.rows?.({ names, columns, only, most: 3 });
      expect((await rows(['invoices', 'harbour dues, März.csv'], ['payer']))?.rows).toEqual([
        ['anna@example.org'],
        ['bo@example.org'],
      ]);
      const day = { column: 'day', values: ['2026-05-03'] };
      expect(new Set((await rows(['tills', 'day=*/till.ndjson.gz'], ['day'], [day]))?.rows.flat())).toEqual(
        new Set(['2026-05-03']),
      );
      await expect(rows(['invoices', 'nothing.csv'], ['payer'])).rejects.toThrow('no longer there');
    } finally {
      await reading.close();
    }
    const below = await CONNECTORS.objects.open(input({ prefix: 'invoices/' }));
    expect((await below.rows?.({ names: ['a+b&c=d.csv'], columns: [], only: [], most: 1 }))?.rows).toEqual([[]]);
    await below.close();
  });

  it('is listed page by page, and below a prefix', async () => {
    const reading = await CONNECTORS.objects.open(input({ bucket: 'many' }));
    expect((await reading.outline()).length).toBeGreaterThan(0);
    expect((await reading.structure(() => undefined)).assets[0]?.stats.files).toBe(2300);
    await reading.close();
    const below = await CONNECTORS.objects.open(input({ prefix: 'invoices/' }));
    expect((await below.outline()).map((item) => item.path)).toEqual(['a+b&c=d.csv', 'harbour dues, März.csv']);
    await below.close();
  });

  it('tells by its marks what has changed', async () => {
    const read = async (marks: Structure['marks'] = new Map()) => {
      const reading = await CONNECTORS.objects.open(input());
      const structure = await reading.structure(() => undefined, { marks, data: true });
      await reading.close();
      return structure;
    };
    const first = await read();
    expect(first.unchanged?.size).toBe(0);
    expect((await read(first.marks)).unchanged?.size).toBe(7);
    put('shore/tills/day=2026-05-03/till.ndjson.gz', gzipSync('{"receipt":1,"card":"x"}\n'));
    utimesSync(
      join(folder, 'store/shore/tills/day=2026-05-03/till.ndjson.gz'),
      new Date(),
      new Date(Date.now() + 5000),
    );
    const second = await read(first.marks);
    expect(second.unchanged?.size).toBe(6);
    expect(paths(second, 'file set')).toHaveLength(1);
  });

  it('ends at once when it is told to', async () => {
    const reading = await CONNECTORS.objects.open(input({ bucket: 'many' }));
    reading.abort();
    await expect(reading.structure(() => undefined)).rejects.toThrow();
    await reading.close();
  });
});
