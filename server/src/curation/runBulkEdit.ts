import type { BulkEditAnswer, ManyAction } from '@idrel/contract/curation';
import { Binder, PATH } from '../catalog/index.ts';
import { type Principal, recordMany } from '../journal/index.ts';
import { loadWho, type Who } from '../people/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { ApiProblem } from '../platform/problems.ts';
import { type ActionSql, actionSql } from './actions.ts';
import { alsoIn } from './effects.ts';

/** So many assets are changed in a transaction: others wait for none of them long, and what was done stays when it ends on the way. */
const PART = 2000;
const LAST = 2 ** 31 - 1;

interface Edit {
  readonly id: string;
  /** With whose rights. */
  readonly personId: string | null;
  readonly action: ManyAction;
  readonly told: string;
  /** Of a step of a routine: the run that it is of. */
  readonly runId: string | null;
  readonly routine: string | null;
  readonly state: BulkEditAnswer['state'];
  readonly cancelled: boolean;
  readonly atNth: number;
  readonly doneNth: number;
}

const EDIT = `
  select
    e.id, case when e.state = 'undoing' then coalesce(e.undone_by, e.person_id) else e.person_id end as "personId", e.action,
    e.told, e.run_id as "runId", r.name as routine, e.state, e.cancelled, e.at_nth as "atNth", e.done_nth as "doneNth"
  from bulk_edit e
  left join routine_run x on x.id = e.run_id
  left join routine r on r.id = x.routine_id
  where e.id = $1`;

/** Does a change of many, or takes it back, part by part; taken up again, it goes on where it was. */
export async function runBulkEdit(db: Database, id: string): Promise<void> {
  for (;;) {
    const more = await db
      .transaction((tx) => nextPart(tx, id))
      .catch(async (error: unknown) => {
        if (!(error instanceof ApiProblem)) throw error;
        await db.run("update bulk_edit set state = 'failed', problem = $2, ended_at = now() where id = $1", [
          id,
          `${error.message} ${error.more.mend ?? ''}`.trim(),
        ]);
        return false;
      });
    if (!more) return;
  }
}

/** @returns whether there is more to do */
async function nextPart(tx: Db, id: string): Promise<boolean> {
  // Compiling a statement takes longer than looking up two thousand rows.
  await tx.run('set local jit = off');
  const edit = await tx.one<Edit>(`${EDIT} for update of e`, [id]);
  const who = edit?.personId ? await loadWho(tx, edit.personId) : undefined;
  if (!edit || !who) return false;
  if (edit.state === 'waiting' || edit.state === 'running') {
    if (edit.cancelled) return end(tx, id, 'cancelled');
    return (await doPart(tx, who, edit)) || end(tx, id, 'done');
  }
  if (edit.state === 'undoing') return (await undoPart(tx, who, edit)) || end(tx, id, 'undone');
  return false;
}

async function end(tx: Db, id: string, state: BulkEditAnswer['state']): Promise<false> {
  await tx.run(
    `update bulk_edit set state = $2, ${state === 'undone' ? 'undone_at' : 'ended_at'} = now() where id = $1`,
    [id, state],
  );
  return false;
}

interface Seen {
  readonly nth: number;
  readonly assetId: string;
  readonly before: string | null;
}

/** The next so many of a change, with what stood there when they were seen. */
const seenNext = (tx: Db, id: string, after: number, until: number): Promise<Seen[]> =>
  tx.rows<Seen>(
    `
      select nth, asset_id as "assetId", before
      from bulk_edit_asset
      where edit_id = $1 and effect = 'changes' and not passed_over and not undone and nth > $2 and nth <= $3
      order by nth
      limit ${PART}`,
    [id, after, until],
  );

/** Holds the rows of a part, so that nobody's edit slips in between. */
async function holdPart(tx: Db, sql: ActionSql, part: readonly Seen[]): Promise<void> {
  const ids = part.map(({ assetId }) => assetId);
  await sql.hold?.(tx, ids);
  // What refers to these assets can still be written meanwhile.
  await tx.rows('select 1 from asset where id = any($1::uuid[]) order by id for no key update', [ids]);
}

/**
 * Keeps what the journal says of a part before it is changed, and which of it is due.
 * @param due SQL over `asset a` and what was seen `b`; @returns those that are due
 */
async function keepPart(
  tx: Db,
  sql: ActionSql,
  part: readonly Seen[],
  binder: Binder,
  due: string,
): Promise<{ id: string; nth: number; before: string | null }[]> {
  const [ids, nths, befores] = [
    binder.add(part.map(({ assetId }) => assetId)),
    binder.add(part.map(({ nth }) => nth)),
    binder.add(part.map(({ before }) => before)),
  ];
  // Each is looked up by its id: the planner would rather read a million assets than two thousand.
  await tx.run(
    `
      create temporary table bulk_part on commit drop as
      select b.nth, b.before, a.id, a.kind, ${PATH} as path, a.domain_id, ${sql.now} as now, ${due} as due
      from unnest(${ids}::uuid[], ${nths}::int[], ${befores}::text[]) as b(asset_id, nth, before)
      cross join lateral (select * from asset x where x.id = b.asset_id offset 0) a
      join source s on s.id = a.source_id`,
    binder.values,
  );
  return tx.rows('select id, nth, before from bulk_part where due');
}

async function writeDown(tx: Db, who: Principal, sql: ActionSql, told: string, ids: readonly string[]): Promise<void> {
  await tx.run('update asset set version = version + 1 where id = any($1::uuid[])', [ids]);
  await recordMany(
    tx,
    who,
    told,
    sql.field,
    `
      select p.kind, p.id, p.path as name, p.domain_id, p.now as before, ${sql.now} as after
      from bulk_part p
      join asset a on a.id = p.id
      where p.due`,
    [],
  );
}

const wayOf = ({ routine }: Pick<Edit, 'routine'>) => (routine === null ? 'many at once' : `routine “${routine}”`);
/** What a routine does for a person is told apart from what they decide by hand. */
const byOf = (who: Who, { runId }: Edit): Principal =>
  runId ? { kind: who.kind, id: who.id, name: who.name, run: runId } : who;

const numbers = (rows: readonly { readonly nth: number }[]) => rows.map(({ nth }) => nth);
/** The next so many that would change: those that stand as they were seen, and that the person may still change, are changed. */
async function doPart(tx: Db, who: Who, edit: Edit): Promise<boolean> {
  const part = await seenNext(tx, edit.id, edit.atNth, LAST);
  if (part.length === 0) return false;
  const sql = await actionSql(tx, edit.action, who);
  await holdPart(tx, sql, part);
  const binder = new Binder();
  const [value, domains] = [binder.add(sql.value), binder.add(who.domainsAs(sql.role))];
  const due = await keepPart(
    tx,
    sql,
    part,
    binder,
    `${edit.runId ? `${sql.decided(value)} is null and ` : ''}not ${sql.same(value)} and (${sql.suits}) and a.domain_id = any(${domains}::uuid[])${alsoIn(sql, value, domains)} and ${sql.before(value)} is not distinct from b.before`,
  );
  const ids = due.map(({ id }) => id);
  if (ids.length > 0) await sql.apply(tx, ids, sql.value);
  await writeDown(tx, byOf(who, edit), sql, `${wayOf(edit)}: ${edit.told}`, ids);
  const changed = new Set(numbers(due));
  const left = numbers(part).filter((nth) => !changed.has(nth));
  if (left.length > 0)
    await tx.run('update bulk_edit_asset set passed_over = true where edit_id = $1 and nth = any($2::int[])', [
      edit.id,
      left,
    ]);
  await tx.run(
    "update bulk_edit set state = 'running', done = done + $2, passed_over = passed_over + $3, at_nth = $4, done_nth = $4, beat_at = now() where id = $1",
    [edit.id, part.length, part.length - due.length, part.at(-1)?.nth],
  );
  return true;
}

/** Puts the next so many back at which the value still stands as it was left. */
async function undoPart(tx: Db, who: Who, edit: Edit): Promise<boolean> {
  const part = await seenNext(tx, edit.id, edit.atNth, edit.doneNth);
  if (part.length === 0) return false;
  const back = await putBackPart(tx, who, edit, part);
  await tx.run('update bulk_edit set restored = restored + $2, at_nth = $3, beat_at = now() where id = $1', [
    edit.id,
    back,
    part.at(-1)?.nth,
  ]);
  return true;
}

/** @returns how many stood as they were left, and are put back */
async function putBackPart(tx: Db, who: Who, edit: Edit, part: readonly Seen[]): Promise<number> {
  const sql = await actionSql(tx, edit.action, who);
  await holdPart(tx, sql, part);
  const binder = new Binder();
  const [value, domains] = [binder.add(sql.value), binder.add(who.domainsAs(sql.role))];
  const due = await keepPart(
    tx,
    sql,
    part,
    binder,
    `${(sql.stands ?? sql.same)(value)} and a.domain_id = any(${domains}::uuid[])${alsoIn(sql, 'b.before', domains)}`,
  );
  await sql.revert(tx, sql.value, due);
  await writeDown(
    tx,
    who,
    sql,
    `${wayOf(edit)} taken back: ${edit.told}`,
    due.map(({ id }) => id),
  );
  return due.length;
}

/** Puts one asset back at which the value still stands as a change of many left it, with the rights of whoever asks. @returns whether it was put back */
export async function putOneBack(tx: Db, who: Who, editId: string, assetId: string): Promise<boolean> {
  const edit = await tx.one<Edit>(`${EDIT} for update of e`, [editId]);
  const seen = await tx.one<Seen>(
    `
      select nth, asset_id as "assetId", before
      from bulk_edit_asset
      where edit_id = $1 and asset_id = $2 and effect = 'changes' and not passed_over and not undone and nth <= $3`,
    [editId, assetId, edit?.doneNth ?? 0],
  );
  if (!edit || !seen) return false;
  const back = await putBackPart(tx, who, edit, [seen]);
  await tx.run('drop table bulk_part');
  await tx.run('update bulk_edit_asset set undone = true where edit_id = $1 and nth = $2', [editId, seen.nth]);
  return back > 0;
}
