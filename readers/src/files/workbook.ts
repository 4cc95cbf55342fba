import { readFile } from 'node:fs/promises';
import { unzipSync } from 'fflate';
import readWorkbook from 'read-excel-file/node';
import type { WalkedFile } from './walk.ts';

/** Workbooks are read into memory: larger ones, or ones that grow beyond this when unpacked, are not. */
const WORKBOOK_PACKED = 64 * 1024 * 1024;
const WORKBOOK_UNPACKED = 256 * 1024 * 1024;
/** A sheet is laid out whole, with its empty cells: more than so many are not. */
const WORKBOOK_CELLS = 8_000_000;

type Cell = string | number | boolean | Date | null | undefined;
const isFilled = (cell: Cell) => cell !== null && cell !== undefined && cell !== '';
const plain = (cell: Cell) =>
  cell instanceof Date ? cell.toISOString().replace(/T00:00:00\.000Z$/, '') : (cell ?? null);

/** Rows of all sheets. The first row that fills its cells with texts names the columns; with several sheets each name says its sheet. */
export async function workbookRows({
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
