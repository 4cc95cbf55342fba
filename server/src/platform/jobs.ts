import type { Db } from './database.ts';

/** Work that follows from much, and is done for all of it at once. */
export type Following = 'priority' | 'broken';

/**
 * Has work done soon that follows from what is written here, once for all that asks for it meanwhile. Asked for last: until the transaction ends, others who
 * ask for the same wait.
 */
export async function follow(tx: Db, ...jobs: readonly Following[]): Promise<void> {
  for (const job of jobs)
    await tx.run(
      "select graphile_worker.add_job($1, '{}'::json, job_key => $1, run_at => now() + interval '1 second', max_attempts => 5)",
      [job],
    );
}

/** Has such work done again after so long, whatever happened: some of what it looks at changes by itself. Called often; it remembers when it last did. */
export function followTender(everyMs: number, ...jobs: readonly Following[]): (db: Db) => Promise<void> {
  let last = 0;
  return async (db) => {
    const now = Date.now();
    if (now - last < everyMs) return;
    last = now;
    await follow(db, ...jobs);
  };
}
