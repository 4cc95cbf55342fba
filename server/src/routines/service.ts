import type { RoutineAnswer, RoutineBody, RoutinePreview, RoutineStep } from '@idrel/contract/routines';
import { type FinderClient, readFilter } from '../catalog/index.ts';
import { bringBack, change, create, type Kept, record, remove } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { forbidden, notFound } from '../platform/problems.ts';
import { nextAt } from '../scanning/index.ts';
import { ROUTINE, type RoutineRow } from './models.ts';
import { checkSteps, foundFor, previewSteps, stepInWords } from './steps.ts';

const SELECT = `
  select
    r.id, r.name, r.filter, r.steps, r.starts, r.guard, r.enabled, r.version,
    case when r.starts is not null then r.next_at end as "nextAt",
    case when p.id is not null and p.left_at is null then json_build_object('id', p.id, 'name', p.name) end as keeper,
    case
      when r.starts is null then 'by hand'
      when p.id is null or p.left_at is not null then 'unkept'
      when r.agreed_at is null then 'not agreed'
      when not r.enabled then 'paused'
      else 'acts'
    end as stands,
    (
      select json_build_object('id', x.id, 'at', x.at, 'state', x.state, 'why', x.why, 'found', x.found, 'changed', x.changed)
      from routine_run x
      where x.routine_id = r.id
      order by x.at desc
      limit 1
    ) as "lastRun",
    (
      select
        json_build_object(
          'runs', count(*), 'changed', coalesce(sum(x.changed), 0), 'failed', count(*) filter (where x.state = 'failed')
        )
      from routine_run x
      where x.routine_id = r.id and x.at > now() - interval '30 days'
    ) as recent,
    (select x.id from routine_run x where x.routine_id = r.id and x.state = 'asks' order by x.at limit 1) as asks
  from routine r
  left join person p on p.id = r.made_by`;
type Row = Omit<RoutineAnswer, 'mayChange' | 'mine'>;

export const keepsRoutine = (who: Who, { keeper }: { readonly keeper: { readonly id: string } | null }): boolean =>
  keeper?.id === who.id || who.isEverywhere('administrator');
const answer = (who: Who, row: Row): RoutineAnswer => ({
  ...row,
  mayChange: keepsRoutine(who, row),
  mine: row.keeper?.id === who.id,
});

export const listRoutines = async (db: Db, who: Who): Promise<RoutineAnswer[]> =>
  (await db.rows<Row>(`${SELECT} where r.removed_at is null order by lower(r.name)`)).map((row) => answer(who, row));

/** @throws 404 */
export async function getRoutine(db: Db, id: string): Promise<Row> {
  const row = await db.one<Row>(`${SELECT} where r.id = $1 and r.removed_at is null`, [id]);
  if (!row) throw notFound('The routine');
  return row;
}

const ROUTINES: Kept<RoutineRow, Row> = {
  thing: 'routine',
  model: ROUTINE,
  read: (db, _who, id) => getRoutine(db, id),
  async told(db, { name, filter, steps, starts, guard, enabled, keeper }) {
    const words: string[] = [];
    for (const step of steps) words.push(await stepInWords(db, step));
    return { name, filter, steps: words, starts, guard, enabled, keeper: keeper?.name ?? null };
  },
  may(_db, who, row) {
    if (!keepsRoutine(who, row)) throw forbidden('who keeps the routine, or administrator');
  },
};

/** What is written of a routine: whoever saves it keeps it, and it acts with their rights. */
async function saved(
  tx: Db,
  who: Who,
  body: RoutineBody,
  finder?: FinderClient,
): Promise<Omit<RoutineRow, 'id' | 'version' | 'removedAt'>> {
  const { name, filter, steps, starts, guard, enabled } = body;
  readFilter(filter);
  await checkSteps(tx, who, steps);
  // What a run may change before there were any is seen against this.
  const expected = starts
    ? (await previewSteps(tx, who, steps, await foundFor(tx, who, filter, finder ? { finder } : {}), 0)).changes
    : 0;
  const next = starts?.on === 'schedule' && enabled ? nextAt(starts.schedule) : null;
  return {
    name,
    filter,
    steps,
    starts,
    guard,
    enabled,
    madeBy: who.id,
    agreedAt: new Date(),
    expected,
    nextAt: next === null ? null : new Date(next),
  };
}

/** @throws 422 when its filter cannot be read, or what it gives is not there; 403 when the person may not give that */
export async function addRoutine(tx: Db, who: Who, body: RoutineBody, finder?: FinderClient): Promise<RoutineAnswer> {
  return answer(who, await create(tx, who, ROUTINES, await saved(tx, who, body, finder)));
}

export async function changeRoutine(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: RoutineBody,
  finder?: FinderClient,
): Promise<RoutineAnswer> {
  await ROUTINES.may?.(tx, who, await getRoutine(tx, id));
  const next = await saved(tx, who, body, finder);
  const values = ({ keeper, stands }: Row): Partial<RoutineRow> => {
    const { agreedAt, ...rest } = next;
    return keeper?.id === who.id && stands !== 'not agreed' ? rest : { ...rest, agreedAt };
  };
  return answer(who, (await change(tx, who, ROUTINES, id, { version, values })).after);
}

/**
 * Takes a routine on: it acts with the rights of whoever does, from now on.
 * @throws 403 when somebody else keeps it, or they may not give what it gives
 */
export async function takeRoutine(tx: Db, who: Who, id: string): Promise<RoutineAnswer> {
  await tx.rows('select 1 from routine where id = $1 for update', [id]);
  const routine = await getRoutine(tx, id);
  if (routine.keeper && !keepsRoutine(who, routine)) throw forbidden('who keeps the routine, or administrator');
  who.mustAnywhere('editor');
  await checkSteps(tx, who, routine.steps);
  const { starts, enabled } = routine;
  const next = starts?.on === 'schedule' && enabled ? nextAt(starts.schedule) : null;
  await tx.run(
    'update routine set made_by = $2, agreed_at = clock_timestamp(), next_at = $3, version = version + 1 where id = $1',
    [id, who.id, next],
  );
  await record(
    tx,
    who,
    'taken on',
    { kind: 'routine', id, name: routine.name, domainId: null },
    { keeper: routine.stands === 'not agreed' ? null : (routine.keeper?.name ?? null) },
    { keeper: who.name },
  );
  return answer(who, await getRoutine(tx, id));
}

/** A routine that is removed stays, out of sight, so that it can be brought back with its runs. What is under way of it goes no further. */
export async function removeRoutine(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, ROUTINES, id, { leaving: { removedAt: new Date() } });
  await tx.run(
    `
      with stopped as (
        update routine_run
        set state = 'skipped', ended_at = now()
        where routine_id = $1 and state in ('asks', 'waiting', 'running')
        returning id
      ),
      ended as (update bulk_edit e set cancelled = true from stopped s where e.run_id = s.id)
      delete from routine_asset a using stopped s where a.run_id = s.id`,
    [id],
  );
}

export const bringBackRoutine = async (tx: Db, who: Who, id: string): Promise<RoutineAnswer> =>
  answer(
    who,
    await bringBack(tx, who, ROUTINES, id, {
      isGone: ({ removedAt }) => removedAt !== null,
      values: { removedAt: null },
    }),
  );

/** What a routine would do now: nothing is written. */
export async function previewRoutine(
  db: Db,
  who: Who,
  { filter, steps }: { readonly filter: string; readonly steps: readonly RoutineStep[] },
  finder?: FinderClient,
): Promise<RoutinePreview> {
  await checkSteps(db, who, steps);
  return previewSteps(db, who, steps, await foundFor(db, who, filter, finder ? { finder } : {}));
}
