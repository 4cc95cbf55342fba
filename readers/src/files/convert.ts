import { createWriteStream } from 'node:fs';
import { readFile, rm } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { inflateRaw } from 'node:zlib';
import avro from 'avsc';
import { unzipSync } from 'fflate';
import readWorkbook from 'read-excel-file/node';
import { arrowRows } from './arrow.ts';
import type { WalkedFile } from './walk.ts';

/** Rows that are taken over, at most: enough to know a file by. */
const MOST_ROWS = 200_000;
/** Workbooks are read into memory: larger ones, or ones that grow beyond this when unpacked, are not. */
const WORKBOOK_PACKED = 64 * 1024 * 1024;
const WORKBOOK_UNPACKED = 256 * 1024 * 1024;
/** A sheet is laid out whole, with its empty cells: more than so many are not. */
const WORKBOOK_CELLS = 8_000_000;
/** One block of an Avro file, unpacked. */
const AVRO_BLOCK = 64 * 1024 * 1024;

/** Formats that DuckDB does not read by itself: they are written as lines of JSON first. */
export const isConverted = (file: Pick<WalkedFile, 'format'>): boolean =>
  file.format === 'xlsx' || file.format === 'avro' || file.format === 'arrow';

/**
 * Writes the rows of a workbook, an Avro or an Arrow file as lines of JSON.
 * @returns whether all rows were taken over
 * @throws when the file is none, or too large
 */
export async function convertToLines(
  file: Pick<WalkedFile, 'path' | 'format' | 'bytes'>,
  target: string,
): Promise<boolean> {
  const rows =
    file.format === 'xlsx'
      ? await workbookRows(file)
      : file.format === 'avro'
        ? avroRows(file.path)
        : arrowRows(file.path);
  let written = 0;
  let whole = true;
  async function* lines(): AsyncGenerator<string> {
    for await (const row of rows) {
      if (written === MOST_ROWS) {
        whole = false;
        return;
      }
      written += 1;
      yield `${exactly(row)}\n`;
    }
  }
  try {
    await pipeline(Readable.from(lines()), createWriteStream(target));
  } catch (error) {
    await rm(target, { force: true }); // what was written would keep others from their room
    throw error;
  }
  return whole;
}

/** JSON in which whole numbers of any size stand with all their digits. */
const exactly = (row: unknown) =>
  JSON.stringify(row, (_, value: unknown) => (typeof value === 'bigint' ? `\u0001${value}\u0001` : value)).replace(
    /"\\u0001(-?\d+)\\u0001"/g,
    '$1',
  );

type Cell = string | number | boolean | Date | null | undefined;
const isFilled = (cell: Cell) => cell !== null && cell !== undefined && cell !== '';
const plain = (cell: Cell) =>
  cell instanceof Date ? cell.toISOString().replace(/T00:00:00\.000Z$/, '') : (cell ?? null);

/** Rows of all sheets. The first row that fills its cells with texts names the columns; with several sheets each name says its sheet. */
async function workbookRows({
  path,
  bytes,
}: Pick<WalkedFile, 'path' | 'bytes'>): Promise<Iterable<Record<string, unknown>>> {
  if (bytes > WORKBOOK_PACKED) throw new Error(`The workbook is larger than ${WORKBOOK_PACKED / 1024 / 1024} MB.`);
  const packed = await readFile(path);
  let unpacked = 0;
  unzipSync(packed, {
    filter: ({ originalSize }) => {
      unpacked += originalSize;
      return false;
    },
  });
  if (unpacked > WORKBOOK_UNPACKED)
    throw new Error(
      `The workbook grows to ${Math.round(unpacked / 1024 / 1024)} MB when unpacked; ${WORKBOOK_UNPACKED / 1024 / 1024} MB are the most.`,
    );
  checkCells(packed);
  const sheets = ((await readWorkbook(packed)) as { sheet: string; data: Cell[][] }[]).filter(({ data }) =>
    data.some((row) => row.some(isFilled)),
  );
  return rowsOf(sheets);
}

const column = (letters: string) => [...letters].reduce((number, letter) => number * 26 + letter.charCodeAt(0) - 64, 0);

/** One far cell makes a sheet of thousands of millions of empty ones: that is told before it is laid out. Cells are named as in ECMA-376, 18.18.7. */
function checkCells(packed: Buffer): void {
  const sheets = unzipSync(packed, { filter: ({ name }) => /^xl\/worksheets\/[^/]+\.xml$/i.test(name) });
  for (const bytes of Object.values(sheets)) {
    let [columns, rows, far] = [0, 0, ''];
    for (const [, letters = '', digits = ''] of Buffer.from(bytes)
      .toString('latin1')
      .matchAll(/<c\s[^>]*?\br="([A-Z]{1,3})([0-9]{1,7})"/g)) {
      if (column(letters) > columns || Number(digits) > rows) far = `${letters}${digits}`;
      columns = Math.max(columns, column(letters));
      rows = Math.max(rows, Number(digits));
    }
    if (columns * rows > WORKBOOK_CELLS)
      throw new Error(
        `A sheet reaches to the cell ${far}: that makes ${(columns * rows).toLocaleString('en')} cells, of which ${WORKBOOK_CELLS.toLocaleString('en')} are the most. Clear the far cells, or save it as CSV.`,
      );
  }
}

function* rowsOf(sheets: readonly { sheet: string; data: Cell[][] }[]): Generator<Record<string, unknown>> {
  for (const { sheet, data } of sheets) {
    const start = data.findIndex((row) => row.some(isFilled));
    const first = data[start] ?? [];
    const width = data.reduce((most, row) => Math.max(most, row.length), 0);
    const named =
      first.filter(isFilled).every((cell) => typeof cell === 'string') && first.filter(isFilled).length > width / 2;
    const taken = new Set<string>();
    const names = Array.from({ length: width }, (_, index) => {
      const own = named && isFilled(first[index]) ? String(first[index]).trim() : `column ${index + 1}`;
      let name = sheets.length > 1 ? `${sheet}/${own}` : own;
      while (taken.has(name.toLowerCase())) name = `${name} (${index + 1})`;
      taken.add(name.toLowerCase());
      return name;
    });
    for (const row of data.slice(named ? start + 1 : start))
      if (row.some(isFilled)) yield Object.fromEntries(names.map((name, index) => [name, plain(row[index])]));
  }
}

/** Numbers that say a time, as the Avro specification calls them (section “Logical Types”). */
const time = (perSecond: number) =>
  class extends avro.types.LogicalType {
    override _fromValue(value: number) {
      return new Date((value / perSecond) * 1000)
        .toISOString()
        .replace(perSecond === 1 / 86_400 ? /T.*$/ : /\.000Z$/, '');
    }
    override _toValue(): undefined {
      return undefined; // nothing is written
    }
    override _resolve(): undefined {
      return undefined;
    }
  };
const LOGICAL = {
  date: time(1 / 86_400),
  'timestamp-millis': time(1000),
  'timestamp-micros': time(1_000_000),
  'local-timestamp-millis': time(1000),
  'local-timestamp-micros': time(1_000_000),
};

/** Rows of an Avro object container file; a value that is no record stands in a column of its own. */
async function* avroRows(path: string): AsyncGenerator<Record<string, unknown>> {
  const inflate = (bytes: Buffer, done: (error: Error | null, unpacked: Buffer) => void) =>
    inflateRaw(bytes, { maxOutputLength: AVRO_BLOCK }, done);
  const decoder = avro.createFileDecoder(path, {
    codecs: { deflate: inflate },
    parseHook: (schema: avro.Schema) => avro.Type.forSchema(schema, { logicalTypes: LOGICAL }),
  } as never);
  let known = false;
  decoder.on('metadata', () => {
    known = true;
  });
  for await (const value of decoder as AsyncIterable<unknown>) {
    yield value !== null && typeof value === 'object' && !Buffer.isBuffer(value)
      ? (value as Record<string, unknown>)
      : { value };
  }
  if (!known) throw new Error('It is no Avro file, or ends before its schema does.');
}
