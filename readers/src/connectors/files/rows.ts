import { groupFiles } from '@idrel/core/scanning';
import { isNested, type openDuck, rowsOfFile, type WalkedFile } from '../../files/index.ts';
import { type RowsRead, type RowsWanted, SourceProblem } from '../types.ts';
import type { FileStore } from './store.ts';
import { describe } from './structure.ts';

/** Of a file set so many parts are looked into before what was found has to do. */
const MOST_PARTS = 20;

/** The first rows of a file, or of the parts of a file set, the last part first: what came last is what people look for. Keys of folders give their values to each row of a part. */
export async function rowsOfFiles(
  store: FileStore,
  duck: Awaited<ReturnType<typeof openDuck>>,
  { names, columns, only, most, whole }: RowsWanted,
): Promise<RowsRead> {
  const { parts, keys } = await partsOf(store, names);
  const rows: (string | null)[][] = [];
  let looked = 0;
  for (const { file, values } of [...parts].reverse()) {
    if (rows.length >= most || (looked === MOST_PARTS && !whole)) break;
    const known = new Map(keys.map((key, index) => [key, values[index] ?? '']));
    // What the folders say is known without reading: a part that cannot count is not opened.
    if (only.some(({ column, values: permitted }) => known.has(column) && !permitted.includes(known.get(column) ?? '')))
      continue;
    looked += 1;
    const read = await readPart(store, duck, file, {
      columns: columns.filter((name) => !known.has(name)),
      only: only.filter(({ column }) => !known.has(column)),
      most: most - rows.length,
      ...(whole && { whole }),
    });
    for (const row of read) rows.push(columns.map((name) => known.get(name) ?? row.get(name) ?? null));
  }
  return looked === MOST_PARTS && !whole && rows.length < most && looked < parts.length
    ? { rows, lookedInto: { parts: looked, of: parts.length } }
    : { rows };
}

interface Part {
  readonly file: WalkedFile;
  /** Of the keys of its folders. */
  readonly values: readonly string[];
}

async function partsOf(
  store: FileStore,
  names: readonly string[],
): Promise<{ parts: readonly Part[]; keys: string[] }> {
  const below = names.slice(0, -1);
  const name = names.at(-1) ?? '';
  // A pattern of names has a star where they differ; whatever else has that name is the file itself.
  if (!name.includes('*')) {
    const { files } = await store.walk({ below, name });
    const file = files.find((one) => one.names.join('/') === names.join('/'));
    if (file) return { parts: [{ file, values: [] }], keys: [] };
  } else {
    const { files } = await store.walk({ below });
    const set = groupFiles(files).sets.find((one) => [...one.folder, one.pattern].join('/') === names.join('/'));
    if (set) return { parts: set.parts, keys: [...set.keys] };
    const file = files.find((one) => one.names.join('/') === names.join('/'));
    if (file) return { parts: [{ file, values: [] }], keys: [] };
  }
  throw new SourceProblem(`${names.join('/')} is no longer there.`, 'Scan the source again.');
}

/** Rows of one file, by the names of its columns: of those that it has. */
async function readPart(
  store: FileStore,
  duck: Awaited<ReturnType<typeof openDuck>>,
  file: WalkedFile,
  { columns, only, most, whole }: Omit<RowsWanted, 'names'>,
): Promise<ReadonlyMap<string, string | null>[]> {
  const { file: own, columns: all, problem } = await describe(store, duck, file);
  if (problem)
    throw new SourceProblem(`${file.names.join('/')} cannot be read: ${problem}`, 'Mend or replace the file.');
  const { file: local } = await store.local(own);
  const types = new Map(all.map(({ name, type }) => [name, type]));
  // A condition on a column that it does not have holds for none of its rows.
  if (only.some(({ column }) => !types.has(column))) return [];
  const there = columns.filter((name) => types.has(name));
  const nested = new Set(there.filter((name) => isNested(types.get(name) ?? '')));
  const read = await rowsOfFile(
    duck,
    local,
    all.map(({ name }) => name),
    { columns: there, only, most, nested, cut: !whole },
  );
  return read.map((row) => new Map(there.map((name, index) => [name, row[index] ?? null])));
}
