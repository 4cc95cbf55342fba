import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { DuckDBInstance } from '@duckdb/node-api';
import {
  Bool,
  DateDay,
  Dictionary,
  Field,
  Int32,
  Int64,
  List,
  Struct,
  Table,
  TimestampMillisecond,
  tableToIPC,
  Utf8,
  vectorFromArray,
} from 'apache-arrow';
import avro from 'avsc';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import writeXlsxFile from 'write-excel-file/node';
import { CONNECTORS, type Reading, type Structure } from '../connectors/index.ts';

const root = mkdtempSync(join(tmpdir(), 'idrel-formats-'));
const at = (name: string) => join(root, name);
let reading: Reading;
let structure: Structure;

const SALE: avro.Schema = {
  type: 'record',
  name: 'Sale',
  fields: [
    { name: 'till', type: 'string' },
    { name: 'amount', type: ['null', 'double'], default: null },
    { name: 'sold_at', type: { type: 'long', logicalType: 'timestamp-millis' } },
    { name: 'sold_on', type: { type: 'int', logicalType: 'date' } },
    { name: 'buyer', type: { type: 'record', name: 'Buyer', fields: [{ name: 'email', type: 'string' }] } },
  ],
} as never;

beforeAll(async () => {
  const rows = (sheet: string) => [
    [{ value: 'name' }, { value: `${sheet}_no` }, { value: 'born' }],
    ...[1, 2, 3].map((n) => [
      { value: `${sheet} ${n}` },
      { value: n * 1.5 },
      { value: new Date(Date.UTC(1990, 0, n)), type: Date, format: 'yyyy-mm-dd' },
    ]),
  ];
  await writeXlsxFile(rows('one') as never, { sheet: 'One' }).toFile(at('single.xlsx'));
  await writeXlsxFile([
    { data: rows('one'), sheet: 'One' },
    { data: [], sheet: 'Empty' },
    { data: rows('two'), sheet: 'Two' },
  ] as never).toFile(at('several.xlsx'));
  writeFileSync(at('broken.xlsx'), 'no workbook at all');
  await new Promise<void>((resolve, reject) => {
    const encoder = avro.createFileEncoder(at('sales.avro'), SALE, { codec: 'deflate' });
    encoder.on('finish', resolve).on('error', reject);
    for (let n = 0; n < 50; n += 1)
      encoder.write({
        till: `T${n % 3}`,
        amount: n % 5 === 0 ? null : n + 0.5,
        sold_at: 1_767_225_600_000 + n * 1000,
        sold_on: 20_454,
        buyer: { email: `b${n}@example.org` },
      });
    encoder.end();
  });
  writeFileSync(at('broken.avro'), 'Obj');
  const day = new Date('2026-01-01T00:00:00Z');
  const buyers = Array.from({ length: 50 }, (_, n) => ({ email: `b${n}@example.org`, tags: ['a', `t${n}`] }));
  const sales = new Table({
    till: vectorFromArray(
      Array.from({ length: 50 }, (_, n) => `T${n % 3}`),
      new Dictionary(new Utf8(), new Int32()),
    ),
    pieces: vectorFromArray(
      Array.from({ length: 50 }, (_, n) => (n === 0 ? 9_007_199_254_740_993n : BigInt(n))),
      new Int64(),
    ),
    paid: vectorFromArray(
      Array.from({ length: 50 }, (_, n) => (n % 5 === 0 ? null : n % 2 === 0)),
      new Bool(),
    ),
    sold_at: vectorFromArray(
      Array.from({ length: 50 }, (_, n) => new Date(day.getTime() + n * 1000)),
      new TimestampMillisecond(),
    ),
    sold_on: vectorFromArray(
      Array.from({ length: 50 }, () => day),
      new DateDay(),
    ),
    buyer: vectorFromArray(
      buyers,
      new Struct([new Field('email', new Utf8()), new Field('tags', new List(new Field('item', new Utf8())))]),
    ),
  });
  writeFileSync(at('sales.arrow'), tableToIPC(sales, 'file'));
  writeFileSync(at('sales.arrows'), tableToIPC(sales, 'stream'));
  writeFileSync(at('cut.feather'), tableToIPC(sales, 'file').subarray(0, 700));
  writeFileSync(at('old.feather'), 'FEA1 something else');
  writeFileSync(at('broken.arrow'), 'no arrow at all');
  writeFileSync(at('letter.txt'), 'Dear all,\n\n"quoted, with commas"; write to ida@example.org\tplease\n');
  writeFileSync(at('latin.csv'), Buffer.from('name,town\nJørgen,Ålesund\nÆgir,Bodø\n', 'latin1'));
  writeFileSync(
    at('mixed.csv'),
    Buffer.concat([Buffer.from('name,town\nJørgen,Bergen\n', 'utf8'), Buffer.from('Åse,Tromsø\n', 'latin1')]),
  );
  writeFileSync(at('packed.csv.gz'), gzipSync('a,b\n1,x\n2,y\n'));
  const duck = await (await DuckDBInstance.create(':memory:')).connect();
  await duck.run(
    `copy (select i as a, 'v' || i as b from range(5) t(i)) to '${at('packed.ndjson.zst')}' (format json, compression zstd)`,
  );
  duck.closeSync();
  writeFileSync(at('*.csv'), 'only,this\n7,star\n');
  writeFileSync(at('[a-z]?.csv'), 'p,q\n8,bracket\n');
  writeFileSync(at('nul.csv'), `id,no\0te,${'w'.repeat(5000)}\n1,a\0b,x\n2,c,y\n`);
  writeFileSync(at('nul.json'), '[{"k\\u0000ey": "v\\u0000alue", "plain": 1}]');
  // A few kilobytes that unpack to 64 MB: as one endless line, and as rows.
  writeFileSync(at('bomb_line.csv.gz'), gzipSync(Buffer.alloc(64 * 1024 * 1024, 'a')));
  writeFileSync(at('bomb.json.gz'), gzipSync(Buffer.alloc(64 * 1024 * 1024, '[')));
  reading = await CONNECTORS.folder.open({ name: 'x', address: { path: root }, secret: null, memoryMb: 256 });
  structure = await reading.structure(() => undefined);
}, 120_000);
afterAll(async () => {
  await reading?.close();
  rmSync(root, { recursive: true, force: true });
});

const asset = (name: string) => structure.assets.find((entry) => entry.name === name && entry.kind !== 'column');
const columns = (name: string) =>
  structure.assets
    .filter((entry) => entry.kind === 'column' && entry.parentKey === asset(name)?.key)
    .map((entry) => `${entry.name} ${entry.native.type}`);
async function values(name: string, column: string): Promise<(string | null)[]> {
  const table = structure.sampleable.find((entry) => entry.key === asset(name)?.key);
  if (!table) throw new Error(`${name} cannot be sampled`);
  const sampled = await reading.sample(table, 100);
  return [...(sampled.values[table.columns.findIndex((entry) => entry.name === column)] ?? [])].sort();
}

describe('names that stand for other names elsewhere', () => {
  it('stand for themselves', async () => {
    expect(columns('*.csv')).toEqual(['only bigint', 'this varchar']);
    expect(await values('*.csv', 'this')).toEqual(['star']);
    expect(await values('[a-z]?.csv', 'q')).toEqual(['bracket']);
  });
});

describe('a workbook', () => {
  it('has the columns of its sheet, with types, and its values', async () => {
    expect(columns('single.xlsx')).toEqual(['name varchar', 'one_no double', 'born date']);
    expect(await values('single.xlsx', 'born')).toEqual(['1990-01-01', '1990-01-02', '1990-01-03']);
    expect(await values('single.xlsx', 'one_no')).toEqual(['1.5', '3.0', '4.5']);
  });
  it('with several sheets says of each column in which it stands; empty sheets have none', async () => {
    expect(columns('several.xlsx').map((column) => column.split(' ')[0])).toEqual([
      'One/name',
      'One/one_no',
      'One/born',
      'Two/name',
      'Two/two_no',
      'Two/born',
    ]);
    expect((await values('several.xlsx', 'Two/name')).filter((value) => value !== null)).toEqual([
      'two 1',
      'two 2',
      'two 3',
    ]);
  });
  it('that is none says so, and the rest goes on', () => {
    expect([columns('broken.xlsx'), String(asset('broken.xlsx')?.native.problem).length > 5]).toEqual([[], true]);
  });
});

describe('an Arrow file', () => {
  it.each(['sales.arrow', 'sales.arrows'])('has its columns, as a file and as a stream: %s', async (name) => {
    expect(columns(name).map((column) => column.split('(')[0])).toEqual([
      'till varchar',
      'pieces bigint',
      'paid boolean',
      'sold_at timestamp',
      'sold_on date',
      'buyer struct',
    ]);
    expect(await values(name, 'pieces')).toContain('9007199254740993');
    expect((await values(name, 'paid')).filter((value) => value === null)).toHaveLength(10);
    expect((await values(name, 'buyer')).map((value) => JSON.parse(value ?? ''))).toContainEqual({
      email: 'b3@example.org',
      tags: ['a', 't3'],
    });
    expect((await values(name, 'sold_on'))[0]).toBe('2026-01-01');
  });
  it.each([
    ['cut.feather', /./],
    ['old.feather', /first version/],
    ['broken.arrow', /no Arrow file|Arrow/],
  ])('that is cut off, old or none says so: %s', (name, words) => {
    expect(columns(name)).toEqual([]);
    expect(String(asset(name)?.native.problem)).toMatch(words);
  });
});

describe('an Avro file', () => {
  it('has the columns of its schema, times as times, records within', async () => {
    expect(columns('sales.avro').map((column) => column.split('(')[0])).toEqual([
      'till varchar',
      'amount double',
      'sold_at timestamp',
      'sold_on date',
      'buyer struct',
    ]);
    expect(await values('sales.avro', 'till')).toHaveLength(50);
    // What has parts is written as JSON: recognition takes it apart by path.
    expect(JSON.parse((await values('sales.avro', 'buyer'))[0] ?? '')).toEqual({
      email: expect.stringMatching(/^b\d+@example\.org$/),
    });
    expect((await values('sales.avro', 'amount')).filter((value) => value === null)).toHaveLength(10);
  });
  it('that is cut off says so', () => {
    expect(columns('broken.avro')).toEqual([]);
    expect(asset('broken.avro')?.native.problem).toBeTruthy();
  });
});

describe('texts and writings', () => {
  it('are read line by line, whatever stands in them', async () => {
    expect(columns('letter.txt')).toEqual(['line varchar']);
    expect((await values('letter.txt', 'line')).filter(Boolean)).toEqual([
      '"quoted, with commas"; write to ida@example.org\tplease',
      'Dear all,',
    ]);
  });
  it('in Latin-1, or in two writings at once, are read and say so', async () => {
    expect(asset('latin.csv')?.native.encoding).toMatch(/Latin-1/);
    expect(await values('latin.csv', 'town')).toEqual(['Bodø', 'Ålesund']);
    expect(asset('mixed.csv')?.native.encoding).toMatch(/Latin-1/);
    expect(await values('mixed.csv', 'town')).toEqual(['Bergen', 'Tromsø']);
    expect(asset('packed.csv.gz')?.native.encoding).toBeUndefined();
  });
  it('compressed with gzip or zstd are read as they are', async () => {
    expect([columns('packed.csv.gz'), await values('packed.csv.gz', 'b')]).toEqual([
      ['a bigint', 'b varchar'],
      ['x', 'y'],
    ]);
    expect(await values('packed.ndjson.zst', 'b')).toEqual(['v0', 'v1', 'v2', 'v3', 'v4']);
  });
  it('that unpack without measure are given up, each with its reason', () => {
    for (const name of ['bomb_line.csv.gz', 'bomb.json.gz'])
      expect([name, columns(name), Boolean(asset(name)?.native.problem)]).toEqual([name, [], true]);
  });
});
