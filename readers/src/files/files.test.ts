import { mkdirSync, mkdtempSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { describeFile, formatOf, openDuck, sampleFile, walk } from './index.ts';

const root = mkdtempSync(join(tmpdir(), 'idrel-files-'));
const outside = mkdtempSync(join(tmpdir(), 'idrel-outside-'));
mkdirSync(join(root, 'deep/er'), { recursive: true });
writeFileSync(join(root, 'deep/er/a "quoted" name.csv'), 'id,kept\n007,x\n008,\n');
writeFileSync(join(root, 'plain.csv'), '1,2\n3,4\n');
writeFileSync(join(root, '.hidden.csv'), 'a\n1\n');
writeFileSync(join(outside, 'secret.csv'), 'a\nsecret\n');
symlinkSync(join(outside, 'secret.csv'), join(root, 'way-out.csv'));
symlinkSync(outside, join(root, 'way-out'));

describe('walking a folder', () => {
  it('finds files at every depth, and follows no link out of it', async () => {
    const { files, folders, skipped } = await walk(root);
    expect(files.map((file) => file.names.join('/'))).toEqual(['deep/er/a "quoted" name.csv', 'plain.csv']);
    expect(folders.map((names) => names.join('/'))).toEqual(['deep', 'deep/er']);
    expect(skipped).toHaveLength(2);
  });

  it('ends with a reason when there are more files than it may hold', async () => {
    await expect(walk(root, undefined, 1)).rejects.toThrow('more than 1 files');
  });
});

describe('reading files', () => {
  it('reads below its folder, and nowhere else', async () => {
    const duck = await openDuck(root);
    await expect(describeFile(duck, { path: join(outside, 'secret.csv'), format: 'csv' })).rejects.toThrow(
      /permission|access/i,
    );
    await expect(duck.run("set memory_limit = '10GB'")).rejects.toThrow(/locked/i);
    duck.closeSync();
  });

  it('keeps values as they are written, knows headers, and gives null for what is missing', async () => {
    const duck = await openDuck(root);
    const named = { path: join(root, 'deep/er/a "quoted" name.csv'), format: 'csv' as const, bytes: 20 };
    const { columns } = await describeFile(duck, named);
    expect(columns.map((column) => column.name)).toEqual(['id', 'kept']);
    const [ids = [], kept = []] = await sampleFile(duck, named, ['id', 'kept'], 10);
    // A sample has no order, but what stands in one row stays together.
    expect(ids.map((id, index) => [id, kept[index]]).sort()).toEqual([
      ['007', 'x'],
      ['008', null],
    ]);
    duck.closeSync();
  });

  it('tells formats by their endings', () => {
    const NAMES = [
      'a.CSV',
      'b.jsonl',
      'c.parquet',
      'd.txt',
      'e',
      'f.xlsx',
      'g.avro',
      'h.json.gz',
      'i.txt.zst',
      'j.parquet.gz',
      'k.pdf',
      'l.arrow',
      'm.Feather',
    ];
    expect(NAMES.map(formatOf)).toEqual([
      'csv',
      'ndjson',
      'parquet',
      'text',
      null,
      'xlsx',
      'avro',
      'json',
      'text',
      null,
      null,
      'arrow',
      'arrow',
    ]);
  });
});
