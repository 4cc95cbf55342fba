import type { QueryOf } from '@idrel/contract/http';
import type { Happening, RoutineRunAnswer, RoutineStep, RunAsset, routineEndpoints } from '@idrel/contract/routines';
import type { FinderClient } from '../catalog/index.ts';
import { lacksRoleFor, putOneBack, STEP_ASSETS } from '../curation/index.ts';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, forbidden, notFound } from '../platform/problems.ts';
import { getRoutine, keepsRoutine } from './service.ts';
import { checkSteps, foundFor, previewSteps, stepInWords } from './steps.ts';

/** Has a worker go on with a run. */
export const queueRoutineRun = (tx: Db, runId: string): Promise<unknown> =>
  tx.run(
    "select graphile_worker.add_job('routine', json_build_object('runId', $1::text), job_key => 'routine ' || $1::text, max_attempts => 3)",
    [runId],
  );

/** How a run came to begin. */
export interface Began {
  readonly why: 'asked' | 'schedule' | Happening;
  /** The run of a scan. */
  readonly causeId?: string;
}

/** Begins a run over assets, with the rights of a person: a worker goes on with it. @returns its id */
export async function beginRun(
  tx: Db,
  routine: { readonly id: string; readonly filter: string; readonly steps: readonly RoutineStep[] },
  personId: string,
  { why, causeId }: Began,
  assetIds: readonly string[],
): Promise<string> {
  const run = await tx.one<{ id: string }>(
    `
      insert into routine_run (routine_id, person_id, why, cause_id, filter, steps, found, changed, same, refused, beat_at)
      values ($1, $2, $3, $4, $5, $6, $7, 0, 0, 0, now())
      returning id`,
    [routine.id, personId, why, causeId ?? null, routine.filter, JSON.stringify(routine.steps), assetIds.length],
  );
  const id = run?.id ?? '';
  await tx.run('insert into routine_asset (run_id, asset_id) select $1, unnest($2::uuid[])', [id, assetIds]);
  await queueRoutineRun(tx, id);
  return id;
}

/**
 * Runs a routine for who asks, with their rights.
 * @param seen how many changes stood in the preview
 * @throws 409 when it would by now change another number of assets, or a run of it is under way
 */
export async function runRoutine(
  tx: Db,
  who: Who,
  id: string,
  seen: number,
  finder?: FinderClient,
): Promise<RoutineRunAnswer> {
  // It may write to people.
  who.mustAnywhere('editor');
  await tx.rows('select 1 from routine where id = $1 for update', [id]);
  const routine = await getRoutine(tx, id);
  if (await tx.one("select from routine_run where routine_id = $1 and state in ('running', 'undoing')", [id]))
    throw conflict('begun-already', 'A run of this routine is under way.', 'Wait until it is done.');
  await checkSteps(tx, who, routine.steps);
  const found = await foundFor(tx, who, routine.filter, finder ? { finder } : {});
  const { changes } = await previewSteps(tx, who, routine.steps, found, 0);
  if (changes !== seen)
    throw conflict(
      'finds-other',
      `The routine would now make ${changes} changes, not the ${seen} of the preview.`,
      'Look at the preview again, then run it. Nothing was changed.',
    );
  return getRun(tx, who, await beginRun(tx, routine, who.id, { why: 'asked' }, found));
}

/** Until then what a run changed can be taken back. */
export const KEPT = "interval '90 days'";
const RUN = `
  select
    x.id, x.routine_id as "routineId", x.at, x.state, x.why, x.filter, x.steps, x.step, x.found, x.changed, x.same,
    x.refused, x.unsuited, x.decided, x.passed_over as "passedOver", x.told, x.tickets, x.calls, x.due_at as "dueAt", x.ended_at as "endedAt",
    x.guard, x.problem, x.undone_at as "undoneAt", x.restored, p.name as person, x.person_id as "personId",
    case when s.id is not null then json_build_object('runId', c.id, 'source', s.name, 'domainId', s.domain_id) end as cause,
    x.at > now() - ${KEPT} and x.state in ('done', 'failed', 'waiting', 'skipped')
      and exists (select from bulk_edit e where e.run_id = x.id and e.done > e.passed_over) as undoable,
    coalesce(
      (
        select json_agg(json_build_object('step', e.step, 'told', e.told, 'found', e.found, 'changed', e.done - e.passed_over))
        from bulk_edit e
        where e.run_id = x.id
      ),
      '[]'
    ) as edits
  from routine_run x
  left join person p on p.id = x.person_id
  left join scan_run c on c.id = x.cause_id
  left join source s on s.id = c.source_id`;
interface RunRow extends Omit<RoutineRunAnswer, 'steps' | 'cause' | 'mayGoOn'> {
  readonly steps: readonly RoutineStep[];
  readonly step: number;
  readonly personId: string | null;
  readonly cause: { runId: string; source: string; domainId: string } | null;
  readonly edits: readonly { step: number; told: string; found: number; changed: number }[];
}

/** @throws 404 */
async function readRun(db: Db, id: string, hold = false): Promise<RunRow> {
  if (hold) await db.rows('select 1 from routine_run where id = $1 for update', [id]);
  const run = await db.one<RunRow>(`${RUN} where x.id = $1`, [id]);
  if (!run) throw notFound('The run');
  return run;
}

export async function getRun(db: Db, who: Who, id: string): Promise<RoutineRunAnswer> {
  const { steps, step: at, edits, personId, cause, ...run } = await readRun(db, id);
  const routine = await getRoutine(db, run.routineId);
  const told: RoutineRunAnswer['steps'][number][] = [];
  for (const [nth, step] of steps.entries()) {
    const edit = edits.find((one) => one.step === nth);
    const over = run.state === 'done' || run.state === 'undone';
    told.push({
      told: edit?.told ?? (await stepInWords(db, step)),
      state:
        nth < at || over ? 'done' : nth === at && run.state !== 'skipped' && run.state !== 'failed' ? 'now' : 'ahead',
      found: edit?.found ?? 0,
      changed: edit?.changed ?? 0,
    });
  }
  const seesCause = cause !== null && who.domainsAs('reader').includes(cause.domainId);
  return {
    ...run,
    cause: seesCause ? { runId: cause.runId, source: cause.source } : null,
    steps: told,
    mayGoOn: personId === who.id || keepsRoutine(who, routine),
  };
}

type RunLine = Pick<RoutineRunAnswer, 'id' | 'at' | 'state' | 'why' | 'found' | 'changed' | 'person' | 'restored'>;
export async function listRuns(db: Db, id: string): Promise<RunLine[]> {
  await getRoutine(db, id);
  return db.rows<RunLine>(
    `
      select x.id, x.at, x.state, x.why, x.found, x.changed, p.name as person, x.restored
      from routine_run x
      left join person p on p.id = x.person_id
      where x.routine_id = $1
      order by x.at desc
      limit 90`,
    [id],
  );
}

/** What a run did or left, asset by asset, of what the reader may see. */
export async function runAssets(
  db: Db,
  who: Who,
  id: string,
  { effect, offset, limit }: QueryOf<typeof routineEndpoints.runAssets>,
): Promise<{ items: readonly RunAsset[]; total: number }> {
  await readRun(db, id);
  const bind = [id, who.domainsAs('reader'), effect ?? null];
  const { columns, from, order } = STEP_ASSETS;
  const [items, told] = await Promise.all([
    db.rows<RunAsset>(`select ${columns} from ${from} order by ${order} limit $4 offset $5`, [...bind, limit, offset]),
    db.one<{ total: number }>(`select count(*)::int as total from ${from}`, bind),
  ]);
  return { items, total: told?.total ?? 0 };
}

const subject = (routine: { readonly id: string; readonly name: string }) =>
  ({ kind: 'routine', id: routine.id, name: routine.name, domainId: null }) as const;

/** Lets a run that asks go on, or skips it. @throws 403; 409 when it asks no more */
export async function goOn(tx: Db, who: Who, id: string, skip: boolean): Promise<RoutineRunAnswer> {
  const run = await readRun(tx, id, true);
  const routine = await getRoutine(tx, run.routineId);
  if (!keepsRoutine(who, routine)) throw forbidden('who keeps the routine, or administrator');
  if (run.state !== 'asks')
    throw conflict('begun-already', 'This run does not ask any more.', 'Look at how far it is.');
  await tx.run(
    skip
      ? "update routine_run set state = 'skipped', ended_at = now() where id = $1"
      : "update routine_run set state = 'running', beat_at = now() where id = $1",
    [id],
  );
  if (skip) await tx.run('delete from routine_asset where run_id = $1', [id]);
  else await queueRoutineRun(tx, id);
  await record(tx, who, skip ? 'run skipped' : 'run let go on', subject(routine), null, { ...run.guard });
  return getRun(tx, who, id);
}

/** Stops a run: what it did stays. @throws 403 */
export async function stopRun(tx: Db, who: Who, id: string): Promise<RoutineRunAnswer> {
  const run = await readRun(tx, id, true);
  const routine = await getRoutine(tx, run.routineId);
  if (run.personId !== who.id && !keepsRoutine(who, routine))
    throw forbidden('who runs it, who keeps the routine, or administrator');
  if (run.state === 'running' || run.state === 'waiting' || run.state === 'asks') {
    await tx.run("update routine_run set state = 'skipped', ended_at = now() where id = $1", [id]);
    await tx.run('update bulk_edit set cancelled = true where run_id = $1', [id]);
    await tx.run('delete from routine_asset where run_id = $1', [id]);
    await record(tx, who, 'run stopped', subject(routine), null, { step: run.step + 1, changed: run.changed });
  }
  return getRun(tx, who, id);
}

/**
 * Takes a run back where its values still stand as it left them: whole, by a worker; or for one asset, at once.
 * @throws 403 when the person may not change all that it changed; 409 when nothing of it can be taken back
 */
export async function undoRun(tx: Db, who: Who, id: string, assetId: string | null): Promise<RoutineRunAnswer> {
  const run = await readRun(tx, id, true);
  const routine = await getRoutine(tx, run.routineId);
  if (run.state === 'undone' || run.state === 'undoing')
    throw conflict('undone', 'The run was taken back already.', 'Nothing has to be done.');
  if (!run.undoable)
    throw conflict(
      'not-undoable',
      'The run cannot be taken back: it is under way, changed nothing, or is more than 90 days old.',
      'Wait until it is done; or choose the same assets, and do the opposite.',
    );
  const edits = await tx.rows<{ id: string }>(
    'select id from bulk_edit where run_id = $1 and done > 0 order by step desc',
    [id],
  );
  for (const edit of edits) {
    const role = await lacksRoleFor(tx, who, edit.id, assetId);
    if (role) throw forbidden(`${role} in the domains of all assets that the run changed`);
  }
  if (assetId) {
    let back = 0;
    for (const edit of edits) if (await putOneBack(tx, who, edit.id, assetId)) back += 1;
    if (back === 0)
      throw conflict(
        'not-undoable',
        'Nothing of this asset stands as the run left it.',
        'Somebody changed it since: see its history.',
      );
    await tx.run('delete from routine_asset where run_id = $1 and asset_id = $2', [id, assetId]);
    await tx.run('update routine_run set restored = coalesce(restored, 0) + $2 where id = $1', [id, back]);
    return getRun(tx, who, id);
  }
  await tx.run("update routine_run set state = 'undoing', undone_by = $2, beat_at = now() where id = $1", [id, who.id]);
  await tx.run('delete from routine_asset where run_id = $1', [id]);
  await queueRoutineRun(tx, id);
  await record(tx, who, 'run taken back', subject(routine), null, { changed: run.changed });
  return getRun(tx, who, id);
}
