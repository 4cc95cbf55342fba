import {
  type Connector,
  type ConnectorInput,
  lettersIn,
  type Reading,
  type RowsRead,
  type RowsWanted,
  WHOLE_LETTERS_MOST,
} from '../types.ts';
import type { ApartKind, Asked, FromChild, ToldError } from './messages.ts';

// The process in which bytes of others are read: it has no secret but the source's own, and is ended by whoever started it when it takes too much.
// Only what its kind needs is loaded: to begin takes a second otherwise, each time somebody looks at a few rows or tests a connection.
const KINDS: Record<ApartKind, () => Promise<Connector>> = {
  dcat: async () => (await import('../dcat/index.ts')).dcat,
  folder: async () => (await import('../folder/index.ts')).folder,
  objects: async () => (await import('../objects/index.ts')).objects,
  scripts: async () => (await import('../scripts/index.ts')).scripts,
  sqlite: async () => (await import('../sqlite/index.ts')).sqliteFile,
};

const send = (message: FromChild): void => void process.send?.(message);
const told = (error: unknown): ToldError => {
  const {
    name = 'Error',
    message = String(error),
    code,
    mend,
  } = error as { name?: string; message?: string; code?: string; mend?: string };
  return { name, message, ...(typeof code === 'string' ? { code } : {}), ...(mend === undefined ? {} : { mend }) };
};

let reading: Reading | undefined;
const open = (): Reading => {
  if (!reading) throw new Error('Nothing is open.');
  return reading;
};
const withNotes = (input: ConnectorInput): ConnectorInput => ({ ...input, reading: (label) => send({ at: label }) });

/** What is wanted whole and is too much stays here: the program that asked would have to hold it, and others are asking it too. */
const within = ({ whole }: RowsWanted, read: RowsRead | undefined): RowsRead | undefined =>
  whole && read && read.rows.reduce((sum, row) => sum + lettersIn(row), 0) > WHOLE_LETTERS_MOST
    ? { rows: [], tooMuch: true }
    : read;

async function answer(asked: Asked): Promise<unknown> {
  switch (asked.what) {
    case 'test':
      return (await KINDS[asked.kind]()).test(withNotes(asked.input));
    case 'open':
      reading = await (await KINDS[asked.kind]()).open(withNotes(asked.input));
      return { profiles: reading.profile !== undefined, queries: reading.queries !== undefined };
    case 'outline':
      return open().outline();
    case 'structure':
      return open().structure((count, columns) => send({ progress: [count, columns] }), asked.known);
    case 'sample':
      return open().sample(asked.table, asked.rows, asked.method);
    case 'profile':
      return open().profile?.(asked.table, asked.measures, asked.rows);
    case 'rows':
      return within(asked.wanted, await open().rows?.(asked.wanted));
    case 'flows':
      return open().flows();
    case 'queries':
      return open().queries?.();
    case 'close':
      return open().close();
  }
}

process.on('message', (asked: Asked) => {
  answer(asked).then(
    (value) => send({ id: asked.id, value }),
    (error: unknown) => send({ id: asked.id, error: told(error) }),
  );
});
// Whoever asked is gone: nobody will take the answer.
process.on('disconnect', () => process.exit(0));
