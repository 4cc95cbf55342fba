import { parentPort, workerData } from 'node:worker_threads';
import type { Finder } from '@idrel/core/catalog/finder';
import { openDatabase } from '../platform/database.ts';
import { KeptFinder } from './keptFinder.ts';

// The thread in which assets are found: what it keeps in memory and works out holds nobody else up. See finderClient.ts.
const { databaseUrl } = workerData as { databaseUrl: string };
const kept = new KeptFinder(openDatabase(databaseUrl, { max: 1 }));

export type FinderMethod = 'find' | 'ids' | 'count' | 'why' | 'branches' | 'bySource' | 'measure' | 'waiting';
export interface FinderQuestion {
  readonly number: number;
  readonly method: FinderMethod;
  readonly given: readonly unknown[];
}
export type FinderReply =
  | { readonly number: number; readonly answer: unknown }
  | { readonly number: number; readonly failed: string };

const waiting: FinderQuestion[] = [];
let busy = false;

parentPort?.on('message', (question: FinderQuestion) => {
  waiting.push(question);
  if (!busy) void answerAll();
});

/** Questions that wait while the picture is brought up to date are answered by the same one: it is newer than each of them. */
async function answerAll(): Promise<void> {
  busy = true;
  while (waiting.length > 0) {
    const asked = waiting.splice(0);
    try {
      const finder = await kept.upToDate();
      for (const question of asked) reply(question, finder);
    } catch (error) {
      for (const { number } of asked) send({ number, failed: String((error as Error).message) });
    }
  }
  busy = false;
}

function reply({ number, method, given }: FinderQuestion, finder: Finder): void {
  try {
    const work = finder[method] as (...given: readonly unknown[]) => unknown;
    send({ number, answer: work.apply(finder, [...given]) });
  } catch (error) {
    send({ number, failed: String((error as Error).stack) });
  }
}

const send = (message: FinderReply) => parentPort?.postMessage(message);

// Read before somebody asks: the first question after a start should not wait for it.
void kept.upToDate().catch(() => undefined);
