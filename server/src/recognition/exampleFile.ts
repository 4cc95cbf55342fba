import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { ExampleColumn } from '@idrel/contract/recognition';
import { CONNECTORS } from '@idrel/readers/connectors';
import { invalid } from '../platform/problems.ts';

/**
 * Columns and values of a file that somebody shows; it is read as a folder with one file would be, and forgotten.
 * @throws 422 when it is of no kind that is read, or cannot be
 */
export async function readExample(name: string, content: Buffer, rows: number): Promise<ExampleColumn[]> {
  const ending = /\.[a-z0-9]+(\.(gz|zst))?$/i.exec(name)?.[0] ?? '';
  const { formatOf } = await import('@idrel/readers/files');
  if (!formatOf(`example${ending}`))
    throw invalid(
      `${name}: its ending says no kind of file that is read.`,
      'Use .csv, .tsv, .xlsx, .json, .ndjson, .parquet, .avro, .arrow, .feather or .txt.',
      [{ field: 'name', message: 'has an ending that is not read' }],
    );
  const folder = await mkdtemp(join(tmpdir(), 'idrel-example-'));
  try {
    await writeFile(join(folder, `example${ending}`), content);
    const reading = await CONNECTORS.folder.open({ name, address: { path: folder }, secret: null, memoryMb: 256 });
    try {
      const { assets, sampleable } = await reading.structure(() => undefined);
      const problem = assets.find((asset) => asset.native.problem)?.native.problem;
      const [table] = sampleable;
      if (!table)
        throw invalid(
          `${name} cannot be read: ${String(problem ?? 'it has no columns')}.`,
          'Check that its content fits its ending.',
          [{ field: 'content', message: 'cannot be read' }],
        );
      const { values } = await reading.sample(table, rows, 'first');
      return table.columns.map((column, index) => ({
        name: column.name,
        values: (values[index] ?? []).flatMap((value) => (value?.trim() ? [value.trim().slice(0, 400)] : [])),
      }));
    } finally {
      await reading.close();
    }
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
