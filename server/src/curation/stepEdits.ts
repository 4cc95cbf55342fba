import type { ManyAction } from '@idrel/contract/curation';
import { Binder, PATH } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { actionSql } from './actions.ts';
import { DECIDED_COUNT, EFFECT_COUNTS, effectOf, inWords } from './effects.ts';

/** What an action of a routine would do to many assets, counted. */
export interface StepCounts {
  readonly found: number;
  readonly changes: number;
  readonly same: number;
  readonly refused: number;
  readonly unsuited: number;
  readonly decided: number;
}

/**
 * SQL of what an action of a routine would do to each of some assets, as `found`, with what it is bound to. What stands at each is looked up where it is told: of
 * a hundred thousand that are as they should be nothing is.
 * @param ids SQL of a set of ids with their place: `id`, `nth`
 */
async function foundBy(tx: Db, who: Who, action: ManyAction, ids: (binder: Binder) => string) {
  const sql = await actionSql(tx, action, who);
  const binder = new Binder();
  const value = binder.add(sql.value);
  const text = `
    with effects as materialized (
      -- A parameter that a statement does not use has no type: not each action asks for what it gives.
      select chosen.nth, a.id, ${effectOf(sql, who, binder, value)} as effect, ${value}::text as given
      from (${ids(binder)}) chosen
      join asset a on a.id = chosen.id
      join source s on s.id = a.source_id
      where ${isSeen('a', binder.add(who.domainsAs('reader')))}
    ),
    decided_by as materialized (
      select a.*, case when a.effect = 'changes' then ${sql.decided(value)} end as decided
      from effects a
    ),
    found as materialized (
      select id, nth, decided, case when decided is null then effect else 'decided' end as effect
      from decided_by
    )`;
  return { sql, text, binder, value };
}

export interface StepItem {
  readonly id: string;
  readonly effect: 'changes' | 'same' | 'refused' | 'unsuited' | 'decided';
  readonly before: string | null;
}

/** What an action of a routine would do to assets now: nothing is written. @param most of so many it is told one by one */
export async function effectsOfStep<Item extends StepItem>(
  tx: Db,
  who: Who,
  action: ManyAction,
  ids: readonly string[],
  most: number,
): Promise<{ told: string; counts: StepCounts; items: Item[] }> {
  const { sql, text, binder } = await foundBy(
    tx,
    who,
    action,
    (values) => `select * from unnest(${values.add(ids)}::uuid[]) with ordinality as u(id, nth)`,
  );
  const row = await tx.one<StepCounts & { items: Item[] | null }>(
    `
      ${text},
      page as (
        select *
        from found
        order by array_position('{changes,decided,refused,unsuited,same}', effect), nth
        limit ${most}
      )
      select
        ${EFFECT_COUNTS}, ${DECIDED_COUNT},
        (
          select
            json_agg(
              json_build_object(
                'id', a.id, 'kind', a.kind, 'path', ${PATH}, 'source', s.name, 'effect', p.effect, 'before',
                ${inWords(`(${sql.now})`)}, 'decided', p.decided
              )
              order by array_position('{changes,decided,refused,unsuited,same}', p.effect), p.nth
            )
          from page p
          join asset a on a.id = p.id
          join source s on s.id = a.source_id
        ) as items
      from found`,
    binder.values,
  );
  const { items, ...counts } = row as StepCounts & { items: Item[] | null };
  return { told: sql.told, counts, items: items ?? [] };
}

/**
 * Keeps what a step of a routine would do to what its run goes through, as a change of many that a worker then does: all but what is as it should be.
 * @returns its id, and the counts
 */
export async function prepareStep(
  tx: Db,
  who: Who,
  run: { readonly id: string; readonly step: number },
  action: ManyAction,
): Promise<{ id: string; counts: StepCounts }> {
  await tx.run('set local jit = off');
  const { sql, text, binder, value } = await foundBy(
    tx,
    who,
    action,
    (values) =>
      `select asset_id as id, row_number() over () as nth from routine_asset where run_id = ${values.add(run.id)}::uuid`,
  );
  const made = await tx.one<{ id: string }>(
    'insert into bulk_edit (person_id, action, told, run_id, step, restored) values ($1, $2, $3, $4, $5, null) returning id',
    [who.id, JSON.stringify(action), sql.told, run.id, run.step],
  );
  const id = made?.id ?? '';
  const counts = (await tx.one<StepCounts>(
    `
      ${text},
      kept as (
        insert into bulk_edit_asset (edit_id, nth, asset_id, effect, now, before, decided)
        select
          ${binder.add(id)}::uuid, row_number() over (order by s.name, a.key), a.id, f.effect, ${sql.now}::jsonb,
          ${sql.before(value)}, f.decided::jsonb
        from found f
        join asset a on a.id = f.id
        join source s on s.id = a.source_id
        where f.effect <> 'same'
      )
      select ${EFFECT_COUNTS}, ${DECIDED_COUNT} from found`,
    binder.values,
  )) as StepCounts;
  await tx.run(
    "update bulk_edit set found = $2, changes = $3, same = $4, refused = $5, unsuited = $6, decided = $7, state = 'waiting' where id = $1",
    [id, counts.found, counts.changes, counts.same, counts.refused, counts.unsuited, counts.decided],
  );
  return { id, counts };
}

/** Where a step changed assets that somebody may not change: then they may not take it back. @returns the role that they need */
export async function lacksRoleFor(tx: Db, who: Who, editId: string, assetId: string | null): Promise<string | null> {
  const edit = await tx.one<{ action: ManyAction }>('select action from bulk_edit where id = $1', [editId]);
  if (!edit) return null;
  const sql = await actionSql(tx, edit.action, who);
  const stranger = await tx.one(
    `
      select 1 as yes
      from bulk_edit_asset b
      join asset a on a.id = b.asset_id
      join source s on s.id = a.source_id
      where b.edit_id = $1 and b.effect = 'changes' and not b.passed_over and not b.undone
        and ($3::uuid is null or b.asset_id = $3)
        and not (a.domain_id = any($2::uuid[])${sql.alsoIn ? ` and ${sql.alsoIn('b.before')} = any($2::uuid[])` : ''})
      limit 1`,
    [editId, who.domainsAs(sql.role), assetId],
  );
  return stranger ? sql.role : null;
}

/** What the run $1 of a routine did, or left, asset by asset, of what a reader of $2 may see: columns, and where they come from, with an effect $3 or any. */
export const STEP_ASSETS = {
  columns: `
    a.id, a.kind, ${PATH} as path, s.name as source, e.step,
    case when b.passed_over then 'passed over' else b.effect end as effect, ${inWords('b.now::json')} as before, b.decided, b.undone`,
  from: `
    bulk_edit e
    join bulk_edit_asset b on b.edit_id = e.id
    join asset a on a.id = b.asset_id
    join source s on s.id = a.source_id
    where e.run_id = $1 and ${isSeen('a', '$2')}
      and ($3::text is null or case when b.passed_over then 'passed over' else b.effect end = $3)`,
  order: 'e.step, b.nth',
};
