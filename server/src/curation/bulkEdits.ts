import {
  type BulkEditAnswer,
  type BulkEditBrief,
  type Choice,
  type ManyAction,
  MOST_AT_ONCE,
} from '@idrel/contract/curation';
import { Binder, chosenBy, type FinderClient, PATH } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { conflict, invalid, notFound } from '../platform/problems.ts';
import { actionSql } from './actions.ts';
import { EFFECT_COUNTS, effectColumns, inWords } from './effects.ts';

/** Assets that a preview lists; all of them are counted. */
const SHOWN = 200;
/** So many that were prepared and not begun are kept of a person. */
const WINDOWS = 4;
const UNDOABLE =
  "(e.state in ('done', 'cancelled', 'failed') and e.done > 0 and e.ended_at > now() - interval '1 day')";
const BRIEF = `
  e.id, e.at, e.told, e.state, e.changes, e.done, e.passed_over as "passedOver", e.restored, e.problem, ${UNDOABLE} as undoable`;

/** Ids of what is chosen, each once. @throws 422 when they are more than are done at once */
async function chosen(finder: FinderClient, who: Who, choice: Choice): Promise<readonly string[]> {
  const ids = 'ids' in choice ? choice.ids : await chosenBy(finder, who, choice, MOST_AT_ONCE + 1);
  if (ids.length > MOST_AT_ONCE)
    throw invalid(
      `More than ${MOST_AT_ONCE.toLocaleString('en')} assets are chosen.`,
      'Narrow the search, and do it in parts.',
      [{ field: 'choice', message: 'are too many' }],
    );
  const out = new Set('ids' in choice ? [] : choice.except);
  return out.size === 0 ? ids : ids.filter((id) => !out.has(id));
}

/** Keeps what is chosen as it stands now, with what the action would do to each: nothing is changed. */
export async function prepareBulkEdit(
  db: Database,
  finder: FinderClient,
  who: Who,
  choice: Choice,
  action: ManyAction,
): Promise<BulkEditAnswer> {
  const ids = await chosen(finder, who, choice);
  return db.transaction(async (tx) => {
    await tx.run('set local jit = off');
    const sql = await actionSql(tx, action, who);
    // What was looked at and left goes, but for the last few: the same person can have several windows open.
    await tx.run(
      `
        delete from bulk_edit
        where person_id = $1
          and state = 'prepared'
          and run_id is null
          and id not in (
            select id from bulk_edit where person_id = $1 and state = 'prepared' and run_id is null order by at desc limit ${WINDOWS}
          )`,
      [who.id],
    );
    const made = await tx.one<{ id: string }>(
      'insert into bulk_edit (person_id, action, told) values ($1, $2, $3) returning id',
      [who.id, JSON.stringify(action), sql.told],
    );
    const id = made?.id ?? '';
    const binder = new Binder();
    const these = binder.add(ids);
    const readable = binder.add(who.domainsAs('reader'));
    const edit = binder.add(id);
    await tx.run(
      `
        insert into bulk_edit_asset (edit_id, nth, asset_id, effect, now, before)
        select ${edit}::uuid, f.nth, f.id, f.effect, f.now::jsonb, f.before
        from (
          select chosen.nth, ${effectColumns(sql, who, binder)}
          from unnest(${these}::uuid[]) with ordinality as chosen(id, nth)
          join asset a on a.id = chosen.id
          join source s on s.id = a.source_id
          where ${isSeen('a', readable)}
        ) f`,
      binder.values,
    );
    await tx.run(
      `
        update bulk_edit e
        set (found, changes, same, refused, unsuited) = (
          select ${EFFECT_COUNTS} from bulk_edit_asset where edit_id = e.id
        )
        where e.id = $1`,
      [id],
    );
    const prepared = await getBulkEdit(tx, who, id);
    if (prepared.found === 0)
      throw invalid('Nothing is chosen.', 'Choose at least one asset.', [{ field: 'choice', message: 'is empty' }]);
    return prepared;
  });
}

/** One's own change of many. */
export async function getBulkEdit(db: Db, who: Who, id: string): Promise<BulkEditAnswer> {
  const edit = await db.one<Omit<BulkEditAnswer, 'items' | 'unsuitedKinds' | 'moves'>>(
    `
      select
        ${BRIEF}, e.action, e.found, e.same, e.refused, e.unsuited, e.ended_at as "endedAt", e.undone_at as "undoneAt"
      from bulk_edit e
      where e.id = $1 and e.person_id = $2 and e.run_id is null`,
    [id, who.id],
  );
  if (!edit) throw notFound('The change of many');
  const items = await db.rows<BulkEditAnswer['items'][number]>(
    `
      select a.id, a.kind, ${PATH} as path, s.name as source, b.effect, ${inWords('b.now::json')} as before
      from (
        select * from bulk_edit_asset where edit_id = $1 order by effect, nth limit ${SHOWN}
      ) b
      join asset a on a.id = b.asset_id
      join source s on s.id = a.source_id
      where ${isSeen('a', '$2')}
      order by b.effect, b.nth`,
    [id, who.domainsAs('reader')],
  );
  const unsuitedKinds =
    edit.unsuited === 0
      ? []
      : await db.rows<BulkEditAnswer['unsuitedKinds'][number]>(
          `
      select a.kind, count(*)::int as assets
      from bulk_edit_asset b
      join asset a on a.id = b.asset_id
      where b.edit_id = $1 and b.effect = 'unsuited'
      group by 1
      order by 2 desc`,
          [id],
        );
  return { ...edit, items, unsuitedKinds, moves: edit.state === 'prepared' ? await movesOf(db, edit) : [] };
}

/** Between which domains what would change moves. */
async function movesOf(
  db: Db,
  { id, action }: Pick<BulkEditAnswer, 'id' | 'action'>,
): Promise<BulkEditAnswer['moves']> {
  if (action.kind !== 'domain') return [];
  const { alsoIn, value } = await actionSql(db, action);
  return db.rows<BulkEditAnswer['moves'][number]>(
    `
      select
        json_build_object('id', f.id, 'name', f.name) as from, json_build_object('id', t.id, 'name', t.name) as to,
        count(*)::int as assets
      from bulk_edit_asset b
      join asset a on a.id = b.asset_id
      join source s on s.id = a.source_id
      join domain f on f.id = a.domain_id
      join domain t on t.id = ${alsoIn?.('$2')}
      where b.edit_id = $1 and b.effect = 'changes' and f.id <> t.id
      group by f.id, t.id
      order by 3 desc, f.name, t.name
      limit 10`,
    [id, value],
  );
}

export const listBulkEdits = (db: Db, who: Who): Promise<BulkEditBrief[]> =>
  db.rows<BulkEditBrief>(
    `select ${BRIEF} from bulk_edit e where e.person_id = $1 and e.state <> 'prepared' and e.run_id is null order by e.at desc limit 30`,
    [who.id],
  );

/** A worker goes on with it, in parts. */
const queue = (tx: Db, id: string) =>
  tx.rows(
    "select graphile_worker.add_job('bulk-edit', json_build_object('editId', $1::text), job_key => 'bulk-edit ' || $1::text)",
    [id],
  );

interface Held {
  readonly state: BulkEditAnswer['state'];
  readonly undoable: boolean;
}
async function hold(tx: Db, who: Who, id: string): Promise<Held> {
  const edit = await tx.one<Held>(
    `select e.state, ${UNDOABLE} as undoable from bulk_edit e where e.id = $1 and e.person_id = $2 and e.run_id is null for update`,
    [id, who.id],
  );
  if (!edit) throw notFound('The change of many');
  return edit;
}

/** Has a worker do what was seen. @throws 409 when it was begun already; 403 when the person may not give what it gives any more */
export async function startBulkEdit(tx: Db, who: Who, id: string): Promise<BulkEditAnswer> {
  const { state } = await hold(tx, who, id);
  if (state !== 'prepared') throw conflict('begun-already', 'This change was begun already.', 'Look at how far it is.');
  const { action } = await getBulkEdit(tx, who, id);
  await actionSql(tx, action, who);
  await tx.run("update bulk_edit set state = 'waiting', started_at = now(), beat_at = now() where id = $1", [id]);
  await queue(tx, id);
  return getBulkEdit(tx, who, id);
}

/** Stops it after the part that is under way. */
export async function cancelBulkEdit(tx: Db, who: Who, id: string): Promise<BulkEditAnswer> {
  await hold(tx, who, id);
  await tx.run("update bulk_edit set cancelled = true where id = $1 and state in ('waiting', 'running')", [id]);
  return getBulkEdit(tx, who, id);
}

/** Has a worker take it back. @throws 409 when it was undone already, is not done yet, or was done more than a day ago */
export async function undoBulkEdit(tx: Db, who: Who, id: string): Promise<BulkEditAnswer> {
  const { state, undoable } = await hold(tx, who, id);
  if (state === 'undone' || state === 'undoing')
    throw conflict('undone', 'This change was taken back already.', 'Nothing has to be done.');
  if (!undoable)
    throw conflict(
      'not-undoable',
      'This change cannot be taken back: it is not done, or was done more than a day ago.',
      'Choose the same assets, and do the opposite.',
    );
  const { action } = await getBulkEdit(tx, who, id);
  await actionSql(tx, action, who);
  await tx.run("update bulk_edit set state = 'undoing', restored = 0, at_nth = 0, beat_at = now() where id = $1", [id]);
  await queue(tx, id);
  return getBulkEdit(tx, who, id);
}

/** What is under way and heard of no more is taken up again: the worker that did it ended. What nobody began is forgotten after a day, the rest after thirty. */
export async function tendBulkEdits(db: Db): Promise<void> {
  const left = await db.rows<{ id: string }>(
    `
      update bulk_edit
      set beat_at = now()
      where run_id is null and state in ('waiting', 'running', 'undoing') and beat_at < now() - interval '30 seconds'
      returning id`,
  );
  for (const { id } of left) await queue(db, id);
  await db.run(
    "delete from bulk_edit where run_id is null and ((state = 'prepared' and at < now() - interval '1 day') or at < now() - interval '30 days')",
  );
}
