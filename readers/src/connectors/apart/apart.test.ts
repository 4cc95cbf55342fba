import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateRawSync } from 'node:zlib';
import { strToU8, zipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { CONNECTORS, type Reading } from '../index.ts';
import { ReaderEnded, ReaderProcess } from './process.ts';

const root = mkdtempSync(join(tmpdir(), 'idrel-hostile-'));
let reading: Reading;

const MAIN = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
const RELATIONS = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const PACKAGE = 'http://schemas.openxmlformats.org/package/2006';

/** A workbook of one sheet, as small as it can be. */
function workbook(rows: string, strings = ''): Uint8Array {
  return zipSync({
    '[Content_Types].xml': strToU8(
      `<Types xmlns="${PACKAGE}/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/></Types>`,
    ),
    '_rels/.rels': strToU8(
      `<Relationships xmlns="${PACKAGE}/relationships"><Relationship Id="r1" Type="${RELATIONS}/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
    ),
    'xl/workbook.xml': strToU8(
      `<workbook xmlns="${MAIN}" xmlns:r="${RELATIONS}"><sheets><sheet name="s" sheetId="1" r:id="r1"/></sheets></workbook>`,
    ),
    'xl/_rels/workbook.xml.rels': strToU8(
      `<Relationships xmlns="${PACKAGE}/relationships"><Relationship Id="r1" Type="${RELATIONS}/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="r2" Type="${RELATIONS}/sharedStrings" Target="sharedStrings.xml"/><Relationship Id="r3" Type="${RELATIONS}/styles" Target="styles.xml"/></Relationships>`,
    ),
    'xl/styles.xml': strToU8(
      `<styleSheet xmlns="${MAIN}"><cellXfs count="1"><xf numFmtId="0"/></cellXfs></styleSheet>`,
    ),
    'xl/sharedStrings.xml': strToU8(`<sst xmlns="${MAIN}">${strings}</sst>`),
    'xl/worksheets/sheet1.xml': strToU8(`<worksheet xmlns="${MAIN}"><sheetData>${rows}</sheetData></worksheet>`),
  });
}
const cell = (name: string, value: string) => `<c r="${name}" t="inlineStr"><is><t>${value}</t></is></c>`;

/** An Avro file (Avro 1.11, "Object Container Files") whose only block unpacks to a hundred million letters. */
function avroBomb(): Buffer {
  const long = (value: number) => {
    const bytes: number[] = [];
    for (let rest = value * 2; ; rest = Math.floor(rest / 128)) {
      if (rest < 128) return Buffer.from([...bytes, rest]);
      bytes.push((rest % 128) | 128);
    }
  };
  const text = (value: string) => Buffer.concat([long(Buffer.byteLength(value)), Buffer.from(value)]);
  const schema = '{"type":"record","name":"r","fields":[{"name":"note","type":"string"}]}';
  const block = deflateRawSync(Buffer.concat([long(100_000_000), Buffer.alloc(100_000_000, 'a')]));
  const sync = Buffer.alloc(16, 7);
  const header = Buffer.concat([
    Buffer.from('Obj\u0001', 'latin1'),
    long(2),
    text('avro.schema'),
    text(schema),
    text('avro.codec'),
    text('deflate'),
    long(0),
    sync,
  ]);
  return Buffer.concat([header, long(1), long(block.length), block, sync]);
}

beforeAll(async () => {
  process.env.IDREL_READER_HEAP_MB = '96';
  writeFileSync(
    join(root, 'far.xlsx'),
    workbook(`<row r="1">${cell('A1', 'name')}</row><row r="1048576">${cell('XFD1048576', 'x')}</row>`),
  );
  writeFileSync(
    join(root, 'huge.xlsx'),
    workbook(`<row r="1">${cell('A1', 'name')}</row>`, '<si><t>x</t></si>'.repeat(4_000_000)),
  );
  writeFileSync(
    join(root, 'plain.xlsx'),
    workbook(`<row r="1">${cell('A1', 'town')}</row><row r="2">${cell('A2', 'Ulvey')}</row>`),
  );
  writeFileSync(join(root, 'bomb.avro'), avroBomb());
  writeFileSync(join(root, 'honest.csv'), 'id,town\n1,Ulvey\n2,Marrick\n');
  reading = await CONNECTORS.folder.open({ name: 'hostile', address: { path: root }, secret: null, memoryMb: 256 });
});
afterAll(async () => {
  delete process.env.IDREL_READER_HEAP_MB;
  await reading.close();
  rmSync(root, { recursive: true, force: true });
});

describe('files that ask for too much', () => {
  it('are told about one by one, and the others are read', async () => {
    const { assets, sampleable } = await reading.structure(() => undefined);
    const problem = (name: string) => String(assets.find((asset) => asset.name === name)?.native.problem ?? '');
    expect(problem('far.xlsx')).toContain('reaches to the cell XFD1048576');
    expect(problem('huge.xlsx')).toContain('more memory or time than one file may take');
    expect(problem('bomb.avro')).not.toBe('');
    expect(sampleable.map((table) => table.label).sort()).toEqual(['honest.csv', 'plain.xlsx']);
    for (const table of sampleable) expect((await reading.sample(table, 10)).values.flat()).toContain('Ulvey');
  });

  it('end the process that reads and not the one that asks', async () => {
    const reader = new ReaderProcess();
    const asked = reader.ask({
      what: 'open',
      kind: 'folder',
      input: { name: 'hostile', address: { path: root }, secret: null },
    });
    reader.end('was ended by the test');
    await expect(asked).rejects.toThrow(ReaderEnded);
    await expect(reader.ask({ what: 'outline' })).rejects.toThrow('was ended by the test');
  });

  it('a reading that was stopped stays stopped', async () => {
    const other = await CONNECTORS.folder.open({ name: 'hostile', address: { path: root }, secret: null });
    other.abort();
    await expect(other.structure(() => undefined)).rejects.toThrow('was stopped');
    await other.close();
  });

  it('keep what a problem of a source says, and how to mend it', async () => {
    await expect(
      CONNECTORS.folder.open({ name: 'x', address: { path: join(root, 'nowhere') }, secret: null }),
    ).rejects.toMatchObject({
      name: 'SourceProblem',
      mend: expect.stringContaining('mkdir'),
    });
  });
});
