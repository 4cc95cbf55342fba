import type { RoutineGuard, RoutineStep } from '@idrel/contract/routines';
import { limitOf } from '@idrel/core/routines';
import { openTickets, prepareStep, runBulkEdit } from '../curation/index.ts';
import { callable, callLater } from '../exchange/index.ts';
import type { Principal } from '../journal/index.ts';
import { loadWho, type Who } from '../people/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { ApiProblem } from '../platform/problems.ts';
import { queueRun } from '../scanning/index.ts';
import { answered } from './questions.ts';
import { queueRoutineRun } from './runs.ts';
import { narrowed } from './steps.ts';
import { tellLater } from './tell.ts';

interface Run {
  readonly id: string;
  readonly routineId: string;
  readonly personId: string | null;
  readonly undoneBy: string | null;
  readonly why: string;
  readonly state: string;
  readonly steps: readonly RoutineStep[];
  readonly step: number;
  readonly guard: object | null;
}

/** Runs of late that tell what is usual. */
const OF_LATE = 10;

const held = (tx: Db, id: string): Promise<Run | undefined> =>
  tx.one<Run>(
    `
      select
        id, routine_id as "routineId", person_id as "personId", undone_by as "undoneBy", why, state, steps, step, guard
      from routine_run
      where id = $1
      for update`,
    [id],
  );

/** The work of the job: goes on with a run until it is done, waits, or asks; or takes it back. Begun again after a fall, it goes on where it was. */
export async function workOnRun(db: Database, id: string): Promise<void> {
  for (;;) {
    const edit = await db.transaction((tx) => next(tx, id)).catch((error: unknown) => failed(db, id, error));
    if (edit === 'over') return;
    if (edit === 'on') continue;
    await runBulkEdit(db, edit);
    await db.transaction((tx) => taken(tx, id, edit));
  }
}

async function failed(db: Db, id: string, error: unknown): Promise<'over'> {
  if (!(error instanceof ApiProblem)) throw error;
  await end(db, id, 'failed', `${error.message} ${error.more.mend ?? ''}`.trim());
  return 'over';
}

async function end(
  tx: Db,
  id: string,
  state: 'done' | 'failed' | 'undone',
  problem: string | null = null,
): Promise<'over'> {
  await tx.run(
    `update routine_run set state = $2, problem = coalesce($3, problem), ended_at = coalesce(ended_at, now())${state === 'undone' ? ', undone_at = now()' : ''} where id = $1`,
    [id, state, problem],
  );
  await tx.run('delete from routine_asset where run_id = $1', [id]);
  return 'over';
}

const going = async (tx: Db, id: string): Promise<string[]> =>
  (await tx.rows<{ id: string }>('select asset_id as id from routine_asset where run_id = $1', [id])).map(
    (row) => row.id,
  );

/** The next step. @returns the change of many that it is; or whether there is more to do */
async function next(tx: Db, id: string): Promise<string> {
  const run = await held(tx, id);
  if (run?.state === 'undoing') return nextBack(tx, run);
  if (run?.state !== 'running') return 'over';
  const who = run.personId ? await loadWho(tx, run.personId) : undefined;
  if (!who) return end(tx, id, 'failed', 'Whoever it acts for has left. Let somebody else take the routine on.');
  const step = run.steps[run.step];
  const left = await tx.one('select 1 as yes from routine_asset where run_id = $1 limit 1', [id]);
  if (!step || !left) return end(tx, id, 'done');
  if (step.do === 'act') return act(tx, who, run, step);
  if (step.do === 'only') {
    const ids = await narrowed(tx, who, step.filter, await going(tx, id));
    await tx.run(
      'delete from routine_asset g where g.run_id = $1 and not exists (select from unnest($2::uuid[]) u(id) where u.id = g.asset_id)',
      [id, ids],
    );
  }
  if (step.do === 'tell') await tellLater(tx, id, run.step);
  if (step.do === 'scan') await scan(tx, who, id);
  if (step.do === 'ticket') await tickets(tx, who, run, step);
  if (step.do === 'call') await call(tx, who, run, step);
  if (step.do === 'ask' && !(await answered(tx, id, run.step, step))) return 'over';
  if (step.do === 'wait') {
    await tx.run(
      "update routine_run set state = 'waiting', due_at = now() + $2 * interval '1 day', step = step + 1 where id = $1",
      [id, step.days],
    );
    return 'over';
  }
  await tx.run('update routine_run set step = step + 1, beat_at = now() where id = $1', [id]);
  return 'on';
}

/** What a step changes is kept as it would be; where that is far more than usual, a person is asked first. */
async function act(tx: Db, who: Who, run: Run, step: Extract<RoutineStep, { do: 'act' }>): Promise<string> {
  const there = await tx.one<{ id: string }>('select id from bulk_edit where run_id = $1 and step = $2', [
    run.id,
    run.step,
  ]);
  if (there) return there.id;
  const edit = await prepareStep(tx, who, run, step.action);
  const limit = run.why === 'asked' || run.guard ? null : await limitNow(tx, run);
  if (limit === null || edit.counts.changes <= limit.most) return edit.id;
  await tx.run("update routine_run set state = 'asks', guard = $2 where id = $1", [
    run.id,
    JSON.stringify({ changes: edit.counts.changes, ...limit }),
  ]);
  return 'over';
}

async function limitNow(tx: Db, run: Run) {
  const routine = await tx.one<{ guard: RoutineGuard; expected: number; past: number[] }>(
    `
      select
        r.guard, r.expected,
        array(
          select x.changed
          from routine_run x
          where x.routine_id = r.id and x.id <> $2 and x.state in ('done', 'waiting')
          order by x.at desc
          limit ${OF_LATE}
        ) as past
      from routine r
      where r.id = $1`,
    [run.routineId, run.id],
  );
  return routine ? limitOf(routine.guard, routine.past, routine.expected) : null;
}

/** Scans the sources of what a run goes through, where whoever it acts for may; what is being scanned already is. */
async function scan(tx: Db, who: Who, id: string): Promise<void> {
  const sources = await tx.rows<{ id: string }>(
    `
      select distinct s.id
      from routine_asset x
      join asset a on a.id = x.asset_id
      join source s on s.id = a.source_id
      where x.run_id = $1 and s.domain_id = any($2::uuid[]) and s.kind <> 'drawn'
      order by s.id
      limit 200`,
    [id, who.domainsAs('source administrator')],
  );
  for (const source of sources)
    await queueRun(tx, {
      sourceId: source.id,
      planId: null,
      options: { sample: true, rows: 500, onlyChanged: true },
      askedBy: who.id,
    });
}

/** Opens a ticket about each of what a run goes through. */
async function tickets(
  tx: Db,
  who: Who,
  run: Run,
  { title, text }: Extract<RoutineStep, { do: 'ticket' }>,
): Promise<void> {
  const principal: Principal = { kind: who.kind, id: who.id, name: who.name, run: run.id };
  const { opened, left } = await openTickets(
    tx,
    { principal, who, routineId: run.routineId, title, text },
    await going(tx, run.id),
  );
  await tx.run('update routine_run set tickets = tickets + $2 where id = $1', [run.id, opened]);
  if (left > 0)
    await tx.run('update routine_run set problem = $2 where id = $1', [
      run.id,
      `Step ${run.step + 1} opens as many tickets as a run may: ${left} more were left out. The next run opens them, or narrow the search.`,
    ]);
}

/** Has a webhook called about all that a run goes through. */
async function call(
  tx: Db,
  who: Who,
  run: Run,
  { webhookId, word }: Extract<RoutineStep, { do: 'call' }>,
): Promise<void> {
  // Whoever it acts for may have given it up since.
  await callable(tx, who, webhookId, `steps.${run.step}.webhookId`);
  const about = { webhookId, runId: run.id, step: run.step, word, assetIds: await going(tx, run.id) };
  await tx.run('update routine_run set calls = calls + $2 where id = $1', [run.id, await callLater(tx, about)]);
}

/** A step has changed what it could: what came of it is counted. */
async function taken(tx: Db, id: string, editId: string): Promise<void> {
  const run = await held(tx, id);
  const edit = await tx.one<{ step: number; state: string; problem: string | null }>(
    'select step, state, problem from bulk_edit where id = $1',
    [editId],
  );
  if (!run || !edit) return;
  if (run.state === 'undoing') {
    await tx.run('update routine_run set beat_at = now() where id = $1', [id]);
    return;
  }
  if (edit.step !== run.step) return;
  await tx.run(
    `
      update routine_run x
      set
        changed = x.changed + e.done - e.passed_over, same = x.same + e.same, refused = x.refused + e.refused,
        unsuited = x.unsuited + e.unsuited, decided = x.decided + e.decided, passed_over = x.passed_over + e.passed_over,
        step = x.step + 1, beat_at = now()
      from bulk_edit e
      where x.id = $1 and e.id = $2`,
    [id, editId],
  );
  if (edit.state === 'failed') await end(tx, id, 'failed', edit.problem);
}

/** The last step that is not taken back yet. */
async function nextBack(tx: Db, run: Run): Promise<string> {
  const edit = await tx.one<{ id: string; state: string }>(
    `
      select id, state
      from bulk_edit
      where run_id = $1 and done > 0 and state <> 'undone'
      order by step desc
      limit 1`,
    [run.id],
  );
  if (!edit) {
    // Counted once, at the end: beside what was taken back one by one.
    await tx.run(
      'update routine_run x set restored = coalesce(restored, 0) + coalesce((select sum(e.restored) from bulk_edit e where e.run_id = x.id), 0) where id = $1',
      [run.id],
    );
    return end(tx, run.id, 'undone');
  }
  if (edit.state !== 'undoing')
    await tx.run("update bulk_edit set state = 'undoing', undone_by = $2, restored = 0, at_nth = 0 where id = $1", [
      edit.id,
      run.undoneBy,
    ]);
  return edit.id;
}

/** Goes on with what has waited long enough, and with what is heard of no more: the worker that did it ended. What is old can be taken back no more. */
export async function tendRuns(db: Database): Promise<void> {
  await db.transaction(async (tx) => {
    const due = await tx.rows<{ id: string }>(
      `
        update routine_run x
        set state = case when state = 'waiting' then 'running' else state end, beat_at = now(), due_at = null
        where state = 'waiting' and due_at <= now()
          or state in ('running', 'undoing') and beat_at < now() - interval '30 seconds'
          and not exists (select from bulk_edit e where e.run_id = x.id and e.beat_at > now() - interval '30 seconds')
        returning id`,
    );
    for (const { id } of due) await queueRoutineRun(tx, id);
  });
  await db.run(
    `
      delete from bulk_edit e
      using routine_run x
      where x.id = e.run_id and x.ended_at < now() - interval '90 days'`,
  );
}
