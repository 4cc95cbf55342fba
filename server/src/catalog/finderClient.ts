import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import type { Filter } from '@idrel/core/catalog';
import type {
  Ask,
  Branch,
  BranchesOf,
  Counted,
  Held,
  Measured,
  MeasuredBy,
  PageAsk,
  PageFound,
  Reasons,
  Waiting,
} from '@idrel/core/catalog/finder';
import type { Context } from '../platform/context.ts';
import type { FinderMethod, FinderQuestion, FinderReply } from './finderThread.ts';

/** What areas are given that look for assets, or count them. */
export interface WithFinder extends Context {
  readonly finder: FinderClient;
}

/** Asks the thread that keeps all assets in memory (keptFinder.ts). */
export interface FinderClient {
  find(ask: Ask, page: PageAsk): Promise<PageFound>;
  /** Ids of what is found, in the order of names within sources, at most so many. */
  ids(ask: Ask, most: number): Promise<readonly string[]>;
  count(ask: Ask): Promise<Counted[]>;
  why(ask: Ask, id: string): Promise<Reasons | undefined>;
  branches(parent: BranchesOf, domains: readonly string[]): Promise<Branch[]>;
  /** How many assets there are, and how many of them lists show, by source and domain. */
  bySource(): Promise<readonly Held[]>;
  /** Findings that wait for a person, the surest first. */
  waiting(
    domains: readonly string[],
    page: { classKey?: string | undefined; offset: number; limit: number },
  ): Promise<{ findings: readonly Waiting[]; total: number }>;
  /** How many of the assets that are found pass each of some filters, by a column. */
  measure(ask: Ask, by: MeasuredBy, filters: readonly Filter[]): Promise<Measured[]>;
  close(): Promise<void>;
}

/** The thread begins with the first question, or when it is told to; one that ended begins anew with the next. */
export function finderClient(databaseUrl: string): FinderClient & { begin(): void } {
  const built = fileURLToPath(new URL('./finderThread.js', import.meta.url));
  const file = existsSync(built) ? built : built.replace('/src/', '/dist/');
  const waiting = new Map<number, { resolve: (answer: never) => void; reject: (error: Error) => void }>();
  let thread: Worker | undefined;
  let last = 0;

  function ended(which: Worker, why: string): void {
    if (thread === which) thread = undefined;
    for (const { reject } of waiting.values()) reject(new Error(`The thread that finds assets ended: ${why}`));
    waiting.clear();
  }
  function begin(): Worker {
    if (thread) return thread;
    const started = new Worker(file, { workerData: { databaseUrl } });
    thread = started;
    started.on('message', (reply: FinderReply) => {
      const asked = waiting.get(reply.number);
      waiting.delete(reply.number);
      if ('failed' in reply) asked?.reject(new Error(reply.failed));
      else asked?.resolve(reply.answer as never);
    });
    started.on('error', (error) => ended(started, error.message));
    started.on('exit', (code) => ended(started, `code ${code}`));
    started.unref();
    return started;
  }
  const ask = <T>(method: FinderMethod, ...given: readonly unknown[]): Promise<T> =>
    new Promise<T>((resolve, reject) => {
      last += 1;
      waiting.set(last, { resolve, reject });
      begin().postMessage({ number: last, method, given } satisfies FinderQuestion);
    });
  return {
    begin: () => void begin(),
    find: (...given) => ask('find', ...given),
    ids: (...given) => ask('ids', ...given),
    count: (...given) => ask('count', ...given),
    why: (...given) => ask('why', ...given),
    branches: (...given) => ask('branches', ...given),
    bySource: () => ask('bySource'),
    waiting: (...given) => ask('waiting', ...given),
    measure: (...given) => ask('measure', ...given),
    async close() {
      await thread?.terminate();
    },
  };
}
