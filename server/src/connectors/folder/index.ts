import { constants } from 'node:fs';
import { access, readdir, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { describeFile, openDuck, sampleFile, type WalkedFile, walk } from '@idrel/readers/files';
import { runSteps } from '../steps.ts';
import { type Connector, type ConnectorInput, type FoundAsset, keyOf, OUTLINE_MOST, type Reading, type Sampleable, SourceProblem, type Structure } from '../types.ts';

/** Folders of files on a disk that the server can read: CSV, TSV, JSON, NDJSON and Parquet with their columns, others by name. */
export const folder: Connector = { test, open };

const inWords = (error: unknown, path: string): SourceProblem => {
  const { code, message } = error as { code?: string; message: string };
  if (code === 'ENOENT') return new SourceProblem(`${path} does not exist on this machine.`, `mkdir -p '${path}'`);
  if (code === 'EACCES') return new SourceProblem(`${path} may not be read by the account that Idrel runs under.`, `chmod o+rx '${path}'`);
  return new SourceProblem(message, 'Check the path.');
};

async function test({ address }: ConnectorInput) {
  const path = String(address.path);
  const words = async <T>(work: Promise<T>): Promise<T> =>
    work.catch((error: unknown) => {
      throw inWords(error, path);
    });
  return runSteps([
    [
      'Resolve',
      async () => {
        await words(stat(path));
        return `${path} is there.`;
      },
    ],
    [
      'Connect',
      async () => {
        if (!(await words(stat(path))).isDirectory()) throw new SourceProblem(`${path} is a file.`, 'Give the folder in which it lies.');
        return 'It is a folder.';
      },
    ],
    ['Authenticate', async () => 'A folder needs no sign-in: the account that Idrel runs under counts.'],
    [
      'Rights to read the catalog',
      async () => {
        await words(access(path, constants.R_OK | constants.X_OK));
        return `${(await words(readdir(path))).length} entries can be listed.`;
      },
    ],
    [
      'Rights to read data',
      async () => {
        const { files } = await words(walk(path));
        let readable = 0;
        for (const file of files)
          readable += await access(file.path, constants.R_OK).then(
            () => 1,
            () => 0,
          );
        if (files.length > 0 && readable === 0) throw new SourceProblem(`None of the ${files.length} files can be read.`, `chmod -R o+r '${path}'`);
        return `${readable} of ${files.length} files can be read.`;
      },
    ],
  ]);
}

async function open(input: ConnectorInput): Promise<Reading> {
  const root = String(input.address.path);
  await stat(root).catch((error: unknown) => {
    throw inWords(error, root);
  });
  const duck = await openDuck(root);
  const files = new Map<string, WalkedFile>();
  return {
    outline: async () => {
      const { folders, files: found } = await walk(root);
      const items = [...folders.map((names) => ({ path: names.join('/'), kind: 'folder' })), ...found.map((file) => ({ path: file.names.join('/'), kind: 'file' }))];
      return items.sort((a, b) => (a.path < b.path ? -1 : 1)).slice(0, OUTLINE_MOST);
    },
    structure: (progress) => readFolder(root, duck, files, progress),
    async sample(table, rows) {
      const file = files.get(table.key);
      if (!file) throw new Error('The file is no longer there.');
      return {
        values: await sampleFile(
          duck,
          file,
          table.columns.map((column) => column.name),
          rows,
        ),
      };
    },
    flows: async () => ({ flows: [], links: [] }),
    abort: () => duck.interrupt(),
    close: async () => duck.closeSync(),
  };
}

async function readFolder(root: string, duck: Awaited<ReturnType<typeof openDuck>>, known: Map<string, WalkedFile>, progress: (objects: number, columns: number) => void): Promise<Structure> {
  const top = basename(root);
  const { folders, files } = await walk(root);
  const assets: FoundAsset[] = [{ key: keyOf(top), parentKey: null, kind: 'folder', name: top, depth: 0, position: 0, comment: null, native: { path: root }, stats: { files: files.length } }];
  folders.forEach((names) =>
    assets.push({
      key: keyOf(top, ...names),
      parentKey: keyOf(top, ...names.slice(0, -1)),
      kind: 'folder',
      name: names.at(-1) ?? '',
      depth: names.length,
      position: 0,
      comment: null,
      native: {},
      stats: {},
    }),
  );
  const sampleable: Sampleable[] = [];
  let columnCount = 0;
  for (const [position, file] of files.entries()) {
    const key = keyOf(top, ...file.names);
    known.set(key, file);
    const described = file.format
      ? await describeFile(duck, file).catch((error: unknown) => ({ columns: [], rows: null, problem: error instanceof Error ? error.message.split('\n')[0] : String(error) }))
      : { columns: [], rows: null };
    const problem = 'problem' in described ? { problem: described.problem } : {};
    assets.push({
      key,
      parentKey: keyOf(top, ...file.names.slice(0, -1)),
      kind: 'file',
      name: file.names.at(-1) ?? '',
      depth: file.names.length,
      position: 0,
      comment: null,
      native: { format: file.format ?? 'other', ...problem },
      stats: { bytes: file.bytes, modified: file.modified, ...(described.rows === null ? {} : { rows: described.rows }) },
    });
    described.columns.forEach((column, index) =>
      assets.push({
        key: keyOf(key, column.name),
        parentKey: key,
        kind: 'column',
        name: column.name,
        depth: file.names.length + 1,
        position: index,
        comment: null,
        native: { type: column.type, nullable: true },
        stats: {},
      }),
    );
    columnCount += described.columns.length;
    if (described.columns.length > 0)
      sampleable.push({
        key,
        label: file.names.join('/'),
        estimatedRows: described.rows ?? 0,
        columns: described.columns.map((column) => ({ key: keyOf(key, column.name), name: column.name, type: column.valueType })),
      });
    progress(position + 1, columnCount);
  }
  return { assets, sampleable };
}
