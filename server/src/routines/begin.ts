import type { Happening, RoutineStarts, RoutineStep } from '@idrel/contract/routines';
import { nextTimes } from '@idrel/core/scanning';
import { loadWho } from '../people/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { ApiProblem } from '../platform/problems.ts';
import { type Began, beginRun } from './runs.ts';
import { checkSteps, foundFor } from './steps.ts';

interface Due {
  readonly id: string;
  readonly filter: string;
  readonly steps: readonly RoutineStep[];
  readonly starts: RoutineStarts;
  readonly keeper: string;
}

const DUE = `
  select r.id, r.filter, r.steps, r.starts, r.made_by as keeper
  from routine r
  join person p on p.id = r.made_by and p.left_at is null
  where r.removed_at is null and r.enabled and r.agreed_at is not null`;

/** Left out: what a run of this routine goes through already, between two steps; and what its people said is to stay as it is. */
const LEFT_OUT = (routine: string) => `
  not exists (
    select from routine_asset g
    join routine_run x on x.id = g.run_id
    where g.asset_id = a.id and x.routine_id = ${routine}::uuid
  )
  and not exists (
    select from routine_ask q
    join routine_run x on x.id = q.run_id
    where q.asset_id = a.id and x.routine_id = ${routine}::uuid and q.answer = 'keep' and q.at > now() - interval '1 year'
  )`;

/**
 * Begins what is due by its schedule. Times that were missed are made up once. Several workers may call this at once.
 * @returns how many runs began
 */
export async function beginDue(db: Database, now = new Date()): Promise<number> {
  for (let begun = 0; ; begun += 1) {
    const more = await db.transaction(async (tx) => {
      const routine = await tx.one<Due>(
        `${DUE} and r.next_at <= $1 and r.starts ->> 'on' = 'schedule' order by r.next_at limit 1 for update of r skip locked`,
        [now.toISOString()],
      );
      if (routine?.starts.on !== 'schedule') return false;
      const [next] = nextTimes(routine.starts.schedule, now.getTime(), 1);
      await tx.run('update routine set next_at = $2 where id = $1', [
        routine.id,
        next === undefined ? null : new Date(next).toISOString(),
      ]);
      await begin(tx, routine, { why: 'schedule' }, () => 'true');
      return true;
    });
    if (!more) return begun;
  }
}

/** A scan brought something that routines listen to: what of each happening it was, as SQL of the assets `a` concerned. @param run SQL of its id */
const CONCERNED: Readonly<Record<Happening, (run: string) => string>> = {
  new: (run) => `a.id in (select c.asset_id from run_change c where c.run_id = ${run} and c.change in ('new', 'back'))`,
  changed: (run) => `a.id in (select c.asset_id from run_change c where c.run_id = ${run} and c.change = 'changed')`,
  gone: (run) => `a.id in (select c.asset_id from run_change c where c.run_id = ${run} and c.change = 'gone')`,
  found: (run) =>
    `a.id in (select k.asset_id from claim k join scan_run r on r.id = k.run_id where k.run_id = ${run} and k.found_at >= r.started_at)`,
  failed: (run) => `a.source_id = (select r.source_id from scan_run r where r.id = ${run} and r.state = 'failed')`,
};

/** Begins what listens to what runs of scans brought, once for each run. @returns how many runs of routines began */
export async function beginHeard(db: Database): Promise<number> {
  for (let begun = 0; ; ) {
    const more = await db.transaction(async (tx) => {
      const run = await tx.one<{ id: string }>(
        'select id from scan_run where ended_at is not null and not heard order by ended_at limit 1 for update skip locked',
      );
      if (!run) return false;
      await tx.run('update scan_run set heard = true where id = $1', [run.id]);
      const listening = await tx.rows<Due>(`${DUE} and r.starts ->> 'on' = 'happening' order by r.name`);
      for (const routine of listening)
        if (routine.starts.on === 'happening')
          for (const why of routine.starts.what)
            if (await begin(tx, routine, { why, causeId: run.id }, CONCERNED[why])) begun += 1;
      return true;
    });
    if (!more) return begun;
  }
}

/** @returns whether there was anything to begin with, or to tell */
async function begin(tx: Db, routine: Due, began: Began, concerned: (run: string) => string): Promise<boolean> {
  const { why, causeId } = began;
  // Most scans bring nothing of it: then no search is made.
  if (causeId && !(await tx.one(`select 1 as yes from asset a where ${concerned('$1::uuid')} limit 1`, [causeId])))
    return false;
  const who = await loadWho(tx, routine.keeper);
  if (!who) return false;
  try {
    await checkSteps(tx, who, routine.steps);
    const ids = await foundFor(tx, who, routine.filter, {
      among: (binder) =>
        `${concerned(causeId ? `${binder.add(causeId)}::uuid` : 'null')} and ${LEFT_OUT(binder.add(routine.id))}`,
    });
    if (ids.length === 0 && why !== 'schedule') return false;
    await beginRun(tx, routine, who.id, began, ids);
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error;
    await tx.run(
      `
        insert into routine_run (
          routine_id, person_id, why, cause_id, filter, steps, found, changed, same, refused, state, ended_at, problem
        )
        values ($1, $2, $3, $4, $5, $6, 0, 0, 0, 0, 'failed', now(), $7)`,
      [
        routine.id,
        who.id,
        why,
        causeId ?? null,
        routine.filter,
        JSON.stringify(routine.steps),
        `${error.message} ${error.more.mend ?? ''}`.trim(),
      ],
    );
  }
  return true;
}
