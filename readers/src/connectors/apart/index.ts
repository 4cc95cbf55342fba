import type { ColumnProfile } from '@idrel/core/scanning';
import type {
  Connector,
  ConnectorInput,
  FoundFlow,
  Known,
  Reading,
  RowsRead,
  SampledTable,
  Structure,
} from '../types.ts';
import type { ApartKind } from './messages.ts';
import { ReaderEnded, ReaderProcess } from './process.ts';

/** So many files may end the process before a reading is given up. */
const FALLS = 8;

/**
 * A kind of source whose bytes are read in a process of their own, with limits on memory and time: a file that asks for too much ends that process and
 * nothing else. A new one takes its place, and leaves that file out.
 */
export const apart = (kind: ApartKind): Connector => ({
  async test(input) {
    const reader = new ReaderProcess(input.memoryMb);
    try {
      return await reader.ask({ what: 'test', kind, input: plain(input) });
    } finally {
      reader.end();
    }
  },
  open: (input) => openApart(kind, input),
});

/** What goes over to the process. */
const plain = ({ address, secret, name, memoryMb, fileKinds, skip, relations }: ConnectorInput): ConnectorInput => ({
  address,
  secret,
  name,
  memoryMb,
  fileKinds,
  skip,
  relations,
});

async function openApart(kind: ApartKind, input: ConnectorInput): Promise<Reading> {
  const skip = [...(input.skip ?? [])];
  let stopped = false;
  let read: { known: Known | undefined } | undefined;
  let able = { profiles: false, queries: false };
  const begin = async () => {
    const reader = new ReaderProcess(input.memoryMb);
    try {
      able = await reader.ask({ what: 'open', kind, input: { ...plain(input), skip: [...skip] } });
      return reader;
    } catch (error) {
      reader.end();
      throw error;
    }
  };
  let reader = await begin();

  /** A process that is there, knows what the one before it had found, and leaves out what ended it. */
  const alive = async (): Promise<ReaderProcess> => {
    if (!reader.hasEnded || stopped) return reader;
    reader = await begin();
    if (read) await reader.ask({ what: 'structure', known: read.known });
    return reader;
  };

  const structure = async (progress: (objects: number, columns: number) => void, known?: Known): Promise<Structure> => {
    for (let falls = 0; ; falls += 1) {
      try {
        const found = await (await alive()).ask<Structure>({ what: 'structure', known }, progress);
        read = { known };
        return found;
      } catch (error) {
        if (
          !(error instanceof ReaderEnded) ||
          error.at === undefined ||
          stopped ||
          falls === FALLS ||
          skip.includes(error.at)
        )
          throw error;
        skip.push(error.at);
      }
    }
  };

  return {
    outline: async () => (await alive()).ask({ what: 'outline' }),
    structure,
    sample: async (table, rows, method) => (await alive()).ask<SampledTable>({ what: 'sample', table, rows, method }),
    ...(able.profiles
      ? {
          profile: async (table, measures, rows) =>
            (await alive()).ask<ColumnProfile[]>({ what: 'profile', table, measures, rows }),
        }
      : {}),
    rows: async (wanted) => (await alive()).ask<RowsRead>({ what: 'rows', wanted }),
    flows: async () => (await alive()).ask<FoundFlow[]>({ what: 'flows' }),
    ...(able.queries ? { queries: async () => (await alive()).ask({ what: 'queries' }) } : {}),
    abort: () => {
      stopped = true;
      reader.end();
    },
    close: async () => {
      if (!reader.hasEnded) await reader.ask({ what: 'close' }).catch(() => undefined);
      reader.end();
    },
  };
}
