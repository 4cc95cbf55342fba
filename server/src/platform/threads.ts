import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import type { ProblemCode } from '@idrel/contract/http';
import { Piscina } from 'piscina';
import { type answered, workElsewhere } from './api.ts';
import { ApiProblem } from './problems.ts';

/** A thread ends after so long, or beyond so much memory: what it did is taken back, and another takes its place. */
const SECONDS = 120;
const MEMORY_MB = 1024;
const ONE_PERSON = 2;

/** What a thread answers: a problem is no error of the thread. */
export type ThreadAnswer<T> =
  | { readonly done: T }
  | { readonly problem: { code: ProblemCode; detail: string; more: object } };

type InThread = <T>(
  name: string,
  task: object,
  whoId: string,
  left: AbortSignal,
  handedOver?: readonly ArrayBuffer[],
) => Promise<T>;
let inThread: InThread | undefined;
/** Has a function of heavy.ts called in a thread; undefined where there are none, as in a thread itself. */
export const threads = (): InThread | undefined => inThread;

/** So long a part waits for its turn while who asked has other long work under way, in milliseconds. */
const WAITS = { each: 250, all: 60_000 } as const;

/**
 * Has a part of something long worked on, in a thread where there are some: the parts of one answer are not refused for what else its asker has under way, but wait.
 * @param here does it where there are no threads
 */
export async function partInThread<T>(
  name: string,
  task: object,
  whoId: string,
  left: AbortSignal,
  here: () => Promise<T>,
): Promise<T> {
  if (!inThread) return here();
  for (let waited = 0; ; waited += WAITS.each) {
    try {
      return await inThread<T>(name, task, whoId, left);
    } catch (error) {
      if (!(error instanceof ApiProblem) || error.code !== 'too-much-at-once' || waited >= WAITS.all) throw error;
      await new Promise((resolve) => setTimeout(resolve, WAITS.each));
    }
  }
}

/** Has heavy operations done in threads, so that nobody waits for another's large body. @returns the way to end them */
export function openThreads(): () => Promise<void> {
  const built = fileURLToPath(new URL('../heavy.js', import.meta.url));
  const filename = existsSync(built) ? built : built.replace('/src/', '/dist/');
  const pool = new Piscina({
    filename,
    minThreads: 1,
    maxThreads: 2,
    maxQueue: 64,
    idleTimeout: 60_000,
    resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB },
  });
  pool.on('error', () => undefined); // told to whoever asked for the work
  const underWay = new Map<string, number>();
  const run: InThread = async <T>(
    name: string,
    task: object,
    whoId: string,
    left: AbortSignal,
    handedOver: readonly ArrayBuffer[] = [],
  ): Promise<T> => {
    const mine = underWay.get(whoId) ?? 0;
    if (mine >= ONE_PERSON)
      throw new ApiProblem('too-much-at-once', 'You have two long operations under way already.', {
        mend: 'Wait until one of them has ended.',
      });
    underWay.set(whoId, mine + 1);
    const late = AbortSignal.timeout(SECONDS * 1000);
    try {
      const answer = (await pool.run(task, {
        name,
        signal: AbortSignal.any([late, left]),
        transferList: [...handedOver],
      })) as ThreadAnswer<T>;
      if ('problem' in answer) throw new ApiProblem(answer.problem.code, answer.problem.detail, answer.problem.more);
      return answer.done;
    } catch (error) {
      if (error instanceof ApiProblem) throw error;
      const { code } = error as { code?: string };
      if (late.aborted)
        throw new ApiProblem(
          'too-long',
          `This took longer than ${SECONDS} seconds and was ended; nothing was changed.`,
          { mend: 'Send less at once.' },
        );
      if (code === 'ERR_WORKER_OUT_OF_MEMORY')
        throw new ApiProblem(
          'too-much-memory',
          'This needs more memory than one operation may take; nothing was changed.',
          { mend: 'Send less at once.' },
        );
      if (/queue/i.test(String((error as Error).message)))
        throw new ApiProblem('too-much-at-once', 'Too much is waiting to be done.', { mend: 'Try again in a moment.' });
      throw error;
    } finally {
      const now = (underWay.get(whoId) ?? 1) - 1;
      if (now > 0) underWay.set(whoId, now);
      else underWay.delete(whoId);
    }
  };
  inThread = run;
  workElsewhere((task, left) =>
    run<ReturnType<typeof answered>>(
      'work',
      task,
      task.whoId ?? task.bearer ?? '',
      left,
      task.pieces.map((piece) => piece.buffer as ArrayBuffer),
    ),
  );
  return () => pool.destroy();
}
