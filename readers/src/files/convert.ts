import { createWriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { WalkedFile } from './walk.ts';

/** Rows that are taken over, at most: enough to know a file by. */
const MOST_ROWS = 200_000;
// What reads each of these formats is loaded when a file of it comes: most folders hold none.

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
      ? await (await import('./workbook.ts')).workbookRows(file)
      : file.format === 'avro'
        ? (await import('./avro.ts')).avroRows(file.path)
        : (await import('./arrow.ts')).arrowRows(file.path);
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
