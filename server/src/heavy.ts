import type { FileAnswer, SheetFormat } from '@idrel/contract/curation';
import { isByKey } from '@idrel/contract/http';
import { Router } from 'express';
import { pino } from 'pino';
import { type AskedThere, callablesOf, keepAskedThere, openGateway, type Prepared, prepare } from './access/index.ts';
import { tieAll } from './app.ts';
import { finderClient } from './catalog/index.ts';
import { writeAssets } from './curation/index.ts';
import { type DescribedTask, writeDescribed } from './exchange/index.ts';
import { loadWho, type Who, whoByKey } from './people/index.ts';
import { answered, checkedCall, tied, untangled } from './platform/api.ts';
import { parseBody } from './platform/body.ts';
import { readConfig } from './platform/config.ts';
import { openDatabase } from './platform/database.ts';
import { type LineSaid, type PartTask, workOnPart } from './platform/lines.ts';
import { ApiProblem, toApiProblem } from './platform/problems.ts';
import { Signals } from './platform/signals.ts';
import type { ThreadAnswer } from './platform/threads.ts';

// A thread of the server for operations that work long on what was sent (platform/threads.ts). It has connections of its own.
const config = readConfig();
const db = openDatabase(config.databaseUrl, { max: 2 });
const log = pino({ level: config.logLevel });
tieAll(Router(), {
  config,
  db,
  log,
  signals: new Signals(config.databaseUrl),
  finder: finderClient(config.databaseUrl),
});

/** The person that a task is done for: with their rights as they are now, as far as their key goes. @throws 401 when they are nobody by now */
async function askedBy(task: { readonly whoId: string | null; readonly keyId: string | null }): Promise<Who> {
  const who =
    task.keyId !== null
      ? await whoByKey(db, task.keyId)
      : task.whoId === null
        ? undefined
        : await loadWho(db, task.whoId);
  if (who) return who;
  throw new ApiProblem('not-signed-in', 'You are not signed in, or your session has ended.', {
    mend: 'Sign in again.',
  });
}

interface Task {
  readonly id: string;
  readonly whoId: string | null;
  readonly keyId: string | null;
  readonly bearer: string | undefined;
  readonly params: unknown;
  readonly query: unknown;
  readonly pieces: readonly Uint8Array[];
  readonly version: number | undefined;
}

/** A problem goes over as what it says; any other error as one of Idrel's own, which is logged here. */
async function told<T>(work: () => Promise<T>): Promise<ThreadAnswer<T>> {
  try {
    return { done: await work() };
  } catch (error) {
    const problem = toApiProblem(error);
    if (problem.status === 500) log.error({ err: error }, 'heavy operation failed');
    return { problem: { code: problem.code, detail: problem.message, more: problem.more } };
  }
}

/** Does one operation as the server would. Called by the pool. */
export const work = (task: Task): Promise<ThreadAnswer<ReturnType<typeof answered>>> =>
  told(async () => {
    const operation = tied(task.id);
    if (!operation) throw new ApiProblem('not-found', 'There is no such operation.');
    const who = isByKey(operation.endpoint.may) && task.whoId === null ? undefined : await askedBy(task);
    const { endpoint, handler } = operation;
    const body = endpoint.body ? parseBody(task.pieces) : undefined;
    const call = checkedCall(endpoint, { ...task, body });
    const nobody = undefined as never; // heavy operations do not look at the request itself
    const left = new AbortController().signal;
    return answered(
      await untangled(async () =>
        handler({ who: who as Who, ...call, bearer: task.bearer, request: nobody, response: nobody, left }),
      ),
    );
  });

/** Takes some lines. Called by the pool. */
export const workOnLines = (task: PartTask): Promise<ThreadAnswer<LineSaid[]>> =>
  told(async () => workOnPart(task, await askedBy(task)));

/** Writes a sheet of assets. Called by the pool. */
export const writeSheet = (task: {
  ids: readonly string[];
  format: SheetFormat;
  whoId: string;
}): Promise<ThreadAnswer<FileAnswer>> =>
  told(async () => {
    const who = await loadWho(db, task.whoId);
    if (!who) throw new ApiProblem('not-signed-in', 'You are not signed in, or your session has ended.');
    return writeAssets(db, who, task.ids, task.format);
  });

/** Writes assets in an open format. Called by the pool. */
export const writeDescribedThere = (task: DescribedTask): Promise<ThreadAnswer<string>> =>
  told(async () => writeDescribed(db, await askedBy(task), task));

/** Keeps what was asked through the gateway. Called by the pool. */
export const keepAskedAtGateway = (task: { all: readonly AskedThere[] }): Promise<ThreadAnswer<void>> =>
  told(() => keepAskedThere(db, task.all));

/** Prepares a long statement for the gateway. Called by the pool. */
export const prepareStatement = (task: {
  asking: Parameters<typeof prepare>[2];
  source: { id: string; version: number };
  sql: string;
  parameters: boolean;
}): Promise<ThreadAnswer<Prepared>> =>
  told(async () => {
    const gateway = await openGateway(db, config, task.source.id);
    let well = false;
    try {
      const { callables } = await callablesOf(task.source.id, task.source.version, gateway.client);
      well = true;
      return await prepare(db, callables, task.asking, task.source.id, task.sql, task.parameters);
    } finally {
      void gateway.leave(well);
    }
  });
