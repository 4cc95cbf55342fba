import type {
  RoutineAction,
  RoutineAnswer,
  RoutineBody,
  RoutinePreview,
  RoutineRunAnswer,
} from '@idrel/contract/routines';
import { Binder, FROM, PATH, readFilter, whereVisible } from '../catalog/index.ts';
import { type ActionSql, actionSql, alsoIn, EFFECT_COUNTS, effectColumns, inWords } from '../curation/index.ts';
import { bringBack, change, create, type Kept, recordMany, remove } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, forbidden, notFound } from '../platform/problems.ts';
import { ROUTINE, type RoutineRow } from './models.ts';

const SHOWN = 200;
const SELECT = `
  select
    r.id, r.name, r.filter, r.action, p.name as "madeBy", r.made_by as "madeById", r.version,
    (
      select json_build_object('at', x.at, 'changed', x.changed)
      from routine_run x
      where x.routine_id = r.id
      order by x.at desc
      limit 1
    ) as "lastRun"
  from routine r
  left join person p on p.id = r.made_by`;
type Row = Omit<RoutineAnswer, 'mayChange'> & { madeById: string | null };

const mayChange = (who: Who, row: { readonly madeById: string | null }) =>
  row.madeById === who.id || who.isEverywhere('administrator');
const answer = (who: Who, { madeById, ...row }: Row): RoutineAnswer => ({
  ...row,
  mayChange: mayChange(who, { madeById }),
});

export const listRoutines = async (db: Db, who: Who): Promise<RoutineAnswer[]> =>
  (await db.rows<Row>(`${SELECT} where r.removed_at is null order by lower(r.name)`)).map((row) => answer(who, row));

async function getRoutine(db: Db, id: string): Promise<Row> {
  const row = await db.one<Row>(`${SELECT} where r.id = $1 and r.removed_at is null`, [id]);
  if (!row) throw notFound('The routine');
  return row;
}

/** The person or term of an action may be gone by now: the journal then keeps its id. */
const actionWord = (db: Db, action: RoutineAction): Promise<string> =>
  actionSql(db, action).then(
    ({ told }) => told,
    () => JSON.stringify(action),
  );

const ROUTINES: Kept<RoutineRow, Row> = {
  thing: 'routine',
  model: ROUTINE,
  read: (db, _who, id) => getRoutine(db, id),
  told: async (db, { name, filter, action }) => ({ name, filter, action: await actionWord(db, action) }),
  may(_db, who, row) {
    if (!mayChange(who, row)) throw forbidden('who made the routine, or administrator');
  },
};

/** @throws 422 when its filter cannot be read, or what it adds is not there */
async function check(db: Db, body: RoutineBody): Promise<void> {
  readFilter(body.filter);
  await actionSql(db, body.action);
}

export async function addRoutine(tx: Db, who: Who, body: RoutineBody): Promise<RoutineAnswer> {
  await check(tx, body);
  return answer(who, await create(tx, who, ROUTINES, { ...body, madeBy: who.id }));
}

export async function changeRoutine(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: RoutineBody,
): Promise<RoutineAnswer> {
  await check(tx, body);
  return answer(who, (await change(tx, who, ROUTINES, id, { version, values: body })).after);
}

/** A routine that is removed stays, out of sight, so that it can be brought back with its runs. */
export async function removeRoutine(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, ROUTINES, id, { leaving: { removedAt: new Date() } });
}

export const bringBackRoutine = async (tx: Db, who: Who, id: string): Promise<RoutineAnswer> =>
  answer(
    who,
    await bringBack(tx, who, ROUTINES, id, {
      isGone: ({ removedAt }) => removedAt !== null,
      values: { removedAt: null },
    }),
  );

interface Effects {
  readonly sql: ActionSql;
  readonly text: string;
  readonly values: readonly unknown[];
}

/** SQL of every asset that a filter finds for a person, with what the action would do to it: `effect` and what stands there `now`. */
async function effects(db: Db, who: Who, filterText: string, action: RoutineAction): Promise<Effects> {
  const sql = await actionSql(db, action, who);
  const binder = new Binder();
  const where = whereVisible(readFilter(filterText), who, binder);
  const text = `select ${effectColumns(sql, who, binder)} from ${FROM} where ${where}`;
  return { sql, text, values: binder.values };
}

type Counts = Pick<RoutinePreview, 'found' | 'changes' | 'same' | 'refused' | 'unsuited'>;

/** What a routine would do now: nothing is written. */
export async function previewRoutine(
  db: Db,
  who: Who,
  filterText: string,
  action: RoutineAction,
): Promise<RoutinePreview> {
  const { text, values } = await effects(db, who, filterText, action);
  const answered = await db.one<Counts & { items: RoutinePreview['items'] | null }>(
    `
      with found as materialized (${text}),
      page as (
        select id, kind, path, source, effect, now, row_number() over (order by effect, source, key) as nth
        from found
        order by nth
        limit ${SHOWN}
      )
      select
        ${EFFECT_COUNTS},
        (
          select json_agg(
            json_build_object(
              'id', id,
              'kind', kind,
              'path', path,
              'source', source,
              'effect', effect,
              'before', ${inWords('now')}
            )
            order by nth
          )
          from page
        ) as items
      from found`,
    values,
  );
  return { ...(answered as Counts), items: answered?.items ?? [] };
}

const RUN = `
  select
    x.id, x.at, p.name as person, x.filter, x.action, x.found, x.changed, x.same, x.refused, x.undone_at as "undoneAt",
    x.restored
  from routine_run x
  left join person p on p.id = x.person_id`;

/**
 * Does what a preview showed, in one transaction; each asset's change stands in the journal.
 * @throws 409 when it would by now change another number of assets than the person saw
 */
export async function runRoutine(tx: Db, who: Who, id: string, seen: number): Promise<RoutineRunAnswer> {
  const routine = await getRoutine(tx, id);
  const { sql, text, values } = await effects(tx, who, routine.filter, routine.action);
  await tx.run(`create temporary table routine_found on commit drop as ${text}`, [...values]);
  const due = await tx.rows<{ id: string }>("select id from routine_found where effect = 'changes'");
  const ids = due.map((row) => row.id);
  await sql.hold?.(tx, ids);
  // Held until the end, so that nobody's edit slips in between; whoever was changed meanwhile is seen by the count below.
  await tx.rows('select 1 from asset where id = any($1::uuid[]) order by id for update', [ids]);
  const counts = (await tx.one<Counts>(`select ${EFFECT_COUNTS} from routine_found`)) as Counts;
  const moved = await tx.one<{ n: number }>(
    `
      select count(*)::int as n
      from routine_found f
      join asset a on a.id = f.id
      where f.effect = 'changes' and a.version <> f.version`,
  );
  if (counts.changes !== seen || (moved?.n ?? 0) > 0)
    throw conflict(
      'finds-other',
      `The routine would now change ${counts.changes} assets, not the ${seen} of the preview.`,
      'Look at the preview again, then run it. Nothing was changed.',
    );
  const [run] = await tx.rows<{ id: string }>(
    `
      insert into routine_run (routine_id, person_id, filter, action, found, changed, same, refused)
      values ($1, $2, $3, $4, $5, $6, $7, $8)
      returning id`,
    [
      id,
      who.id,
      routine.filter,
      JSON.stringify(routine.action),
      counts.found,
      counts.changes,
      counts.same,
      counts.refused,
    ],
  );
  await tx.run(
    "insert into routine_change (run_id, asset_id, before) select $1, id, before from routine_found where effect = 'changes'",
    [run?.id],
  );
  await sql.apply(tx, ids, sql.value);
  await tx.run('update asset set version = version + 1 where id = any($1::uuid[])', [ids]);
  await recordMany(
    tx,
    who,
    `edited by routine ${routine.name}`,
    sql.field,
    `
      select f.kind, f.id, f.path as name, f."domainId" as domain_id, f.now as before, ${sql.now} as after
      from routine_found f
      join asset a on a.id = f.id
      where f.effect = 'changes'`,
    [],
  );
  return (await tx.one<RoutineRunAnswer>(`${RUN} where x.id = $1`, [run?.id])) as RoutineRunAnswer;
}

export async function listRuns(db: Db, id: string): Promise<RoutineRunAnswer[]> {
  await getRoutine(db, id);
  return db.rows<RoutineRunAnswer>(`${RUN} where x.routine_id = $1 order by x.at desc limit 50`, [id]);
}

/** Takes a run back where its value still stands as the run left it. */
export async function undoRun(tx: Db, who: Who, runId: string): Promise<RoutineRunAnswer> {
  const run = await tx.one<{ action: RoutineAction; undone: boolean; name: string }>(
    `
      select x.action, x.undone_at is not null as undone, r.name
      from routine_run x
      join routine r on r.id = x.routine_id
      where x.id = $1
      for update of x`,
    [runId],
  );
  if (!run) throw notFound('The run');
  if (run.undone) throw conflict('undone', 'The run was taken back already.', 'Nothing has to be done.');
  const sql = await actionSql(tx, run.action, who);
  const stranger = await tx.one(
    `
      select 1 as yes
      from routine_change c
      join asset a on a.id = c.asset_id
      join source s on s.id = a.source_id
      where c.run_id = $1 and not (a.domain_id = any($2::uuid[])${alsoIn(sql, 'c.before', '$2')})
      limit 1`,
    [runId, who.domainsAs(sql.role)],
  );
  if (stranger) throw forbidden(`${sql.role} in the domains of all assets that the run changed`);
  await tx.run(
    `
      create temporary table routine_undone on commit drop as
      select a.id, a.kind, ${PATH} as path, a.domain_id, ${sql.now} as now
      from routine_change c
      join asset a on a.id = c.asset_id
      join source s on s.id = a.source_id
      where c.run_id = $1 and ${(sql.stands ?? sql.same)('$2')}`,
    [runId, sql.value],
  );
  const kept = await tx.rows<{ id: string; before: string | null }>(
    'select u.id, c.before from routine_undone u join routine_change c on c.run_id = $1 and c.asset_id = u.id',
    [runId],
  );
  await sql.hold?.(
    tx,
    kept.map((asset) => asset.id),
  );
  await sql.revert(tx, sql.value, kept);
  await tx.run('update asset set version = version + 1 where id in (select id from routine_undone)');
  await recordMany(
    tx,
    who,
    `routine ${run.name} taken back`,
    sql.field,
    `
      select u.kind, u.id, u.path as name, u.domain_id, u.now as before, ${sql.now} as after
      from routine_undone u
      join asset a on a.id = u.id`,
    [],
  );
  await tx.run(
    'update routine_run set undone_at = now(), undone_by = $2, restored = (select count(*) from routine_undone) where id = $1',
    [runId, who.id],
  );
  return (await tx.one<RoutineRunAnswer>(`${RUN} where x.id = $1`, [runId])) as RoutineRunAnswer;
}
