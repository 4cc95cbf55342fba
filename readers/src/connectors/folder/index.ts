import { constants } from 'node:fs';
import { access, readdir, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { walk } from '../../files/index.ts';
import { openFiles } from '../files/reading.ts';
import type { FileStore } from '../files/store.ts';
import { runSteps } from '../steps.ts';
import { type Connector, type ConnectorInput, type Reading, SourceProblem } from '../types.ts';

/** Folders of files on a disk that the server can read: CSV, TSV, JSON, NDJSON and Parquet with their columns, others by name; many parts of one dataset as one file set. */
export const folder: Connector = { test, open };

/** What is wrong with a folder, in words. */
export const inFolderWords = (error: unknown, path: string): SourceProblem => {
  const { code, message } = error as { code?: string; message: string };
  if (code === 'ENOENT') return new SourceProblem(`${path} does not exist on this machine.`, `mkdir -p '${path}'`);
  if (code === 'EACCES')
    return new SourceProblem(`${path} may not be read by the account that Idrel runs under.`, `chmod o+rx '${path}'`);
  return new SourceProblem(message, 'Check the path.');
};

const wordsAbout =
  (path: string) =>
  async <T>(work: Promise<T>): Promise<T> =>
    work.catch((error: unknown) => {
      throw inFolderWords(error, path);
    });

/** The steps up to a folder whose entries can be listed. */
export function reachFolder(path: string): Parameters<typeof runSteps>[0] {
  const words = wordsAbout(path);
  return [
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
        if (!(await words(stat(path))).isDirectory())
          throw new SourceProblem(`${path} is a file.`, 'Give the folder in which it lies.');
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
  ];
}

async function test({ address }: ConnectorInput) {
  const path = String(address.path);
  return runSteps([
    ...reachFolder(path),
    [
      'Rights to read data',
      async () => {
        const { files } = await wordsAbout(path)(walk(path));
        let readable = 0;
        for (const file of files)
          readable += await access(file.path, constants.R_OK).then(
            () => 1,
            () => 0,
          );
        if (files.length > 0 && readable === 0)
          throw new SourceProblem(`None of the ${files.length} files can be read.`, `chmod -R o+r '${path}'`);
        return `${readable} of ${files.length} files can be read.`;
      },
    ],
  ]);
}

async function open(input: ConnectorInput): Promise<Reading> {
  const root = String(input.address.path);
  await stat(root).catch((error: unknown) => {
    throw inFolderWords(error, root);
  });
  const store: FileStore = {
    top: basename(root),
    native: { path: root },
    inPlace: true,
    walk: (part) => walk(root, part),
    local: async (file) => ({ file, part: 1 }),
  };
  return openFiles(store, root, input);
}
