import { keepableWithin } from '@idrel/core/text';
import { parse } from 'csv-parse/sync';
import { stringify } from 'csv-stringify/sync';
import { invalid } from './problems.ts';

/** So many lines are read. */
const MOST_ROWS = 100_000;

/** Of the content of a file that cannot be read. */
export const cannotRead = (what: string, mend: string) =>
  invalid(what, mend, [{ field: 'content', message: 'cannot be read' }]);

/** @throws 422 where it is not UTF-8 */
export function asText(bytes: Buffer): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    throw cannotRead('The file is not written in UTF-8.', 'Save it as UTF-8.');
  }
}

/** The rows of a CSV, whatever parts its cells. @throws 422 with the line that cannot be read */
export function readCsv(text: string): string[][] {
  const [first = ''] = text.split('\n', 1);
  // Spreadsheets of many countries part cells by semicolons.
  const delimiter = [',', ';', '\t'].sort((a, b) => first.split(b).length - first.split(a).length)[0] ?? ',';
  try {
    return parse(text, { bom: true, delimiter, relax_column_count: true, to: MOST_ROWS + 1 }) as string[][];
  } catch (error) {
    throw cannotRead(`The file is no CSV: ${(error as Error).message}`, 'Check the quotation marks at that line.');
  }
}

/** The rows of the first sheet of a workbook, as texts. @throws 422 when it is none */
export async function readWorkbook(bytes: Buffer): Promise<string[][]> {
  let rows: readonly (readonly unknown[])[];
  try {
    const { default: readXlsx } = await import('read-excel-file/node');
    const [sheet] = await readXlsx(bytes);
    rows = sheet?.data ?? [];
  } catch (error) {
    throw cannotRead(`The file is no XLSX: ${(error as Error).message}`, 'Save it as XLSX anew.');
  }
  return rows
    .slice(0, MOST_ROWS + 1)
    .map((row) =>
      row.map((cell) =>
        cell === null || cell === undefined
          ? ''
          : cell instanceof Date
            ? cell.toISOString().slice(0, 10)
            : String(cell),
      ),
    );
}

/** Rows as CSV; the mark at the beginning tells spreadsheets that it is UTF-8. */
export const writeCsv = (rows: readonly (readonly string[])[]): Buffer =>
  Buffer.from(`\ufeff${stringify(rows as string[][])}`);

/** So many lines that are added to a sheet have the lists, too. */
const ADDED = 200;

/**
 * Rows as a workbook of one sheet, the names of the columns first.
 * @param wide columns that hold long texts; @param lists what can be chosen in cells of a column
 */
export async function writeWorkbook(
  name: string,
  rows: readonly (readonly string[])[],
  { wide = [], lists = {} }: { wide?: readonly string[]; lists?: Readonly<Record<string, readonly string[]>> } = {},
): Promise<Buffer> {
  const [head = [], ...lines] = rows;
  const { default: excel } = await import('exceljs');
  const book = new excel.Workbook();
  const sheet = book.addWorksheet(name, { views: [{ state: 'frozen', ySplit: 1 }] });
  sheet.columns = head.map((header) => ({ header, width: wide.includes(header) ? 48 : 20 }));
  sheet.getRow(1).font = { bold: true };
  sheet.addRows(lines.map((row) => row.map((value) => value || null)));
  for (const [column, values] of Object.entries(lists)) {
    const at = head.indexOf(column) + 1;
    for (let line = 2; at > 0 && line <= rows.length + ADDED; line += 1)
      sheet.getCell(line, at).dataValidation = {
        type: 'list',
        allowBlank: true,
        formulae: [`"${values.join(',')}"`],
      };
  }
  return Buffer.from(await book.xlsx.writeBuffer());
}

export type SheetFormat = 'csv' | 'xlsx';
export const SHEET_TYPES: Record<SheetFormat, string> = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
};

/** The rows of a sheet, by the ending of its name. @throws 422 when it is none, or cannot be read */
export async function readSheet(name: string, bytes: Buffer): Promise<string[][]> {
  if (/\.xlsx$/i.test(name)) return keepableWithin(await readWorkbook(bytes));
  if (/\.csv$/i.test(name)) return keepableWithin(readCsv(asText(bytes)));
  throw invalid(`${name}: its ending says no kind of sheet.`, 'Use .csv or .xlsx.', [
    { field: 'name', message: 'has an ending that is not read' },
  ]);
}

/** Rows as a sheet of either kind, the names of the columns first. */
export const asSheet = async (
  format: SheetFormat,
  name: string,
  rows: readonly (readonly string[])[],
  more: Parameters<typeof writeWorkbook>[2] = {},
): Promise<Buffer> => (format === 'csv' ? writeCsv(rows) : writeWorkbook(name, rows, more));
