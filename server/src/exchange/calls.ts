import { FROM, PATH } from '../catalog/index.ts';
import { isSeen, loadWho, type Who } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import { keysOf, send } from './signed.ts';
import { MAY_USE, maySend, useBind } from './webhooks.ts';

/** So many assets one message tells of. */
export const CALL_MOST = 500;

/** What the job of calling a webhook is given: of which run, by which step, and about what. */
export interface CallJob {
  readonly webhookId: string;
  readonly runId: string;
  readonly step: number;
  readonly part: number;
  readonly parts: number;
  readonly word: string;
  readonly assetIds: readonly string[];
}

/** What a webhook that somebody may use is called. @throws 422 when there is none of this id that they may have called */
export async function callable(db: Db, who: Who, webhookId: string, field: string): Promise<string> {
  const found = await db.one<{ name: string }>(`select w.name from webhook w where ${MAY_USE} and w.id = $3`, [
    ...useBind(who),
    webhookId,
  ]);
  if (found && maySend(who)) return found.name;
  throw invalid('The webhook is not there, or is not yours to have called.', 'Choose one that you keep.', [
    { field, message: 'is not there' },
  ]);
}

/** Has a webhook called about some assets, once the transaction is through; in parts where they are many. @returns how many messages that is */
export async function callLater(tx: Db, { assetIds, ...call }: Omit<CallJob, 'part' | 'parts'>): Promise<number> {
  const parts = Math.ceil(assetIds.length / CALL_MOST);
  for (let part = 0; part < parts; part += 1)
    await tx.run("select graphile_worker.add_job('call', $1::json, max_attempts => 12)", [
      JSON.stringify({
        ...call,
        part: part + 1,
        parts,
        assetIds: assetIds.slice(part * CALL_MOST, (part + 1) * CALL_MOST),
      } satisfies CallJob),
    ]);
  return parts;
}

/**
 * The work of the job: one signed message, as a CloudEvent. It is the same one however often it is tried: its id is that of the run, the step and the part.
 * @param last whether it is not tried again: then the run says that it was not taken
 * @throws when it was not taken
 */
export async function callWebhook(db: Database, config: Config, job: CallJob, last: boolean): Promise<void> {
  const run = await db.one<{ name: string; routineId: string; personId: string | null }>(
    'select r.name, r.id as "routineId", x.person_id as "personId" from routine_run x join routine r on r.id = x.routine_id where x.id = $1',
    [job.runId],
  );
  const hook = await db.one<{ name: string; address: string; enabled: boolean }>(
    'select name, address, enabled from webhook where id = $1',
    [job.webhookId],
  );
  if (!run) return;
  const why = await notTaken(db, config, job, run, hook);
  if (why === null) return;
  const told = `“${hook?.name ?? 'A webhook that is gone'}” did not take what step ${job.step + 1} told it. ${why}`;
  if (last) await db.run('update routine_run set problem = coalesce(problem, $2) where id = $1', [job.runId, told]);
  throw new Error(told);
}

interface CalledAbout {
  readonly id: string;
  readonly kind: string;
  readonly path: string;
  readonly source: string;
}
const seenOf = (db: Db, who: Who, ids: readonly string[]): Promise<CalledAbout[]> =>
  db.rows<CalledAbout>(
    `select a.id, a.kind, ${PATH} as path, s.name as source from ${FROM} where a.id = any($1::uuid[]) and ${isSeen('a', '$2')} order by s.name, a.key`,
    [ids, who.domainsAs('reader')],
  );

/** Sends the message. @returns why it was not taken; null where it was */
async function notTaken(
  db: Database,
  config: Config,
  job: CallJob,
  run: { readonly name: string; readonly routineId: string; readonly personId: string | null },
  hook: { readonly address: string; readonly enabled: boolean } | undefined,
): Promise<string | null> {
  if (!hook) return 'It is not there any more.';
  if (!hook.enabled) return 'It is turned off.';
  const who = run.personId === null ? undefined : await loadWho(db, run.personId);
  // What they may see by then is told.
  if (!who || !maySend(who)) return 'Whoever the routine acts for administers nothing any more.';
  const address = config.address ?? '';
  const { problem } = await send(config, hook.address, await keysOf(db, config, job.webhookId), {
    specversion: '1.0',
    id: `${job.runId}.${job.step + 1}.${job.part}`,
    source: config.address ?? '/',
    type: 'idrel.routine.called',
    subject: `routine/${run.routineId}`,
    time: new Date().toISOString(),
    datacontenttype: 'application/json',
    data: {
      routine: run.name,
      word: job.word,
      part: job.part,
      parts: job.parts,
      assets: (await seenOf(db, who, job.assetIds)).map((asset) => ({
        ...asset,
        link: `${address}/assets/${asset.id}`,
      })),
    },
  });
  return problem;
}
