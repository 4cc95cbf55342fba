import { mkdtempSync, rmSync, symlinkSync } from 'node:fs';
import { access, constants, open as openFile, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { loadParser } from '@idrel/core/sql';
import sqlite, { type Database } from 'node-sqlite3-wasm';
import { runSteps } from '../steps.ts';
import { type Connector, type ConnectorInput, OUTLINE_MOST, type Reading, SourceProblem } from '../types.ts';
import { readSqliteRows, readSqliteSample } from './sample.ts';
import { readSqliteFlows, readSqliteStructure } from './structure.ts';

/** A database in one SQLite file. */
export const sqliteFile: Connector = { test, open };

/** Opens a file for reading. SQLite keeps its lock beside the name it was given: a name of our own, so that nothing is written beside the source. */
function openReadOnly(path: string): { database: Database; close: () => void } {
  const folder = mkdtempSync(join(tmpdir(), 'idrel-sqlite-'));
  symlinkSync(path, join(folder, 'source'));
  const remove = () => rmSync(folder, { recursive: true, force: true });
  try {
    const database = new sqlite.Database(join(folder, 'source'), { readOnly: true });
    return {
      database,
      close: () => {
        database.close();
        remove();
      },
    };
  } catch (error) {
    remove();
    throw error;
  }
}

/** The first 16 bytes of a database file (https://www.sqlite.org/fileformat.html, 1.3). */
const MAGIC = 'SQLite format 3\0';

async function checkFile(path: string): Promise<string> {
  const facts = await stat(path).catch((error: { code?: string; message: string }) => {
    if (error.code === 'ENOENT')
      throw new SourceProblem(
        `${path} does not exist on this machine.`,
        'Check the path: it is the one that the server sees.',
      );
    throw new SourceProblem(error.message, 'Check the path.');
  });
  if (!facts.isFile()) throw new SourceProblem(`${path} is not a file.`, 'Give the path of the SQLite file itself.');
  return `${path} is there, ${facts.size.toLocaleString('en')} bytes.`;
}

async function checkReadable(path: string): Promise<void> {
  await access(path, constants.R_OK).catch(() => {
    throw new SourceProblem(`${path} may not be read by the account that Idrel runs under.`, `chmod o+r '${path}'`);
  });
}

async function checkMagic(path: string): Promise<void> {
  await checkReadable(path);
  const file = await openFile(path, 'r');
  try {
    const { buffer } = await file.read(Buffer.alloc(16), 0, 16, 0);
    if (buffer.toString('latin1') !== MAGIC)
      throw new SourceProblem(
        `${path} is not an SQLite database.`,
        'Choose another file, or register its folder when it is a file of another kind. Encrypted databases cannot be read.',
      );
  } finally {
    await file.close();
  }
}

async function test({ address }: ConnectorInput) {
  const path = String(address.path);
  let opened: ReturnType<typeof openReadOnly> | undefined;
  const database = () => (opened as ReturnType<typeof openReadOnly>).database;
  try {
    return await runSteps([
      ['Resolve', () => checkFile(path)],
      [
        'Connect',
        async () => {
          await checkMagic(path);
          opened = openReadOnly(path);
          return 'It is an SQLite database.';
        },
      ],
      ['Authenticate', async () => 'A file needs no sign-in: the account that Idrel runs under counts.'],
      [
        'Rights to read the catalog',
        async () =>
          `${database().all("select 1 from sqlite_schema where type in ('table', 'view')").length} tables and views are described.`,
      ],
      [
        'Rights to read data',
        async () => {
          const wal = await stat(`${path}-wal`).catch(() => undefined);
          return wal && wal.size > 0
            ? 'Its tables can be read. Beside it lies a write-ahead log: what was not yet taken over from there is not seen.'
            : 'Its tables can be read.';
        },
      ],
    ]);
  } finally {
    opened?.close();
  }
}

async function open(input: ConnectorInput): Promise<Reading> {
  const path = String(input.address.path);
  await checkFile(path);
  await checkMagic(path);
  const { database, close } = openReadOnly(path);
  const top = basename(path);
  let stopped = false;
  const going = async <T>(work: () => T): Promise<T> => {
    await new Promise((resolve) => setImmediate(resolve)); // SQLite works in this thread: between two tables others have their turn
    if (stopped) throw new Error('The reading was terminated.');
    return work();
  };
  return {
    outline: () =>
      going(
        () =>
          database.all(
            `
              select name as path, type as kind
              from sqlite_schema
              where type in ('table', 'view') and name not like 'sqlite\\_%' escape '\\'
              order by 1
              limit ${OUTLINE_MOST}`,
          ) as {
            path: string;
            kind: string;
          }[],
      ),
    structure: async (progress, known) => {
      const facts = known && (await stat(path));
      await loadParser();
      return going(() =>
        readSqliteStructure(database, top, progress, facts && { known, data: `${facts.size} ${facts.mtimeMs}` }),
      );
    },
    sample: (table, rows, method) => going(() => readSqliteSample(database, table, rows, method)),
    rows: (wanted) => going(() => readSqliteRows(database, wanted)),
    flows: () => readSqliteFlows(database, top),
    abort: () => {
      stopped = true;
    },
    close: async () => close(),
  };
}
