import type { Role } from '@idrel/contract/people';
import type { RoutineAction } from '@idrel/contract/routines';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';

/**
 * An action in SQL: how an asset stands to it, how it is done to many at once, and how it is taken back.
 * `$value` stands for what the action gives: a standing, or the id of a person or a term.
 */
export interface ActionSql {
  /** The role that a person needs in the asset's domain. */
  readonly role: Role;
  /** The field's name in the journal. */
  readonly field: string;
  /** What the journal says the value is: words, not ids. */
  readonly word: string;
  readonly value: string;
  /** True where `asset a` already is as the action wants it. */
  readonly same: (value: string) => string;
  /** What stands at `asset a` now, as the journal shows it: a list of names, or a word. */
  readonly now: string;
  /** What must be kept to take it back; null where something is only added. */
  readonly before: string;
  /** $1 ids of assets, $2 the value. */
  readonly apply: string;
  /** Assets of run $1 where the value $2 still stands as the run left it. */
  readonly revert: string;
}

const added = (
  table: string,
  key: string,
  names: string,
  extra: { columns: string; values: string; where: string },
): Pick<ActionSql, 'same' | 'now' | 'before' | 'apply' | 'revert'> => ({
  same: (value) =>
    `exists (select 1 from ${table} x where x.asset_id = a.id and x.${key} = ${value}::uuid${extra.where})`,
  now: `coalesce((select json_agg(n.name order by n.name) from ${table} x join ${names} n on n.id = x.${key} where x.asset_id = a.id${extra.where}), '[]')`,
  before: 'null',
  apply: `
    insert into ${table} (asset_id, ${key}${extra.columns})
    select unnest($1::uuid[]), $2::uuid${extra.values}
    on conflict
    do nothing`,
  revert: `
    delete from ${table} x
    using routine_change c
    where c.run_id = $1 and x.asset_id = c.asset_id and x.${key} = $2::uuid${extra.where}`,
});

/** @throws 422 when the person or term that the action names is not there */
export async function actionSql(db: Db, action: RoutineAction): Promise<ActionSql> {
  if (action.kind === 'standing')
    return {
      role: 'steward',
      field: 'standing',
      word: action.standing,
      value: action.standing,
      same: (value) => `a.standing::text = ${value}`,
      now: 'to_json(a.standing::text)',
      before: 'a.standing::text',
      apply: `update asset set standing = $2 where id = any($1::uuid[])`,
      revert: `
        update asset a
        set standing = c.before::standing
        from routine_change c
        where c.run_id = $1 and a.id = c.asset_id and a.standing::text = $2`,
    };
  const named = await db.one<{ name: string }>(
    `select name from ${action.kind === 'term' ? 'term' : 'person'} where id = $1`,
    [action.id],
  );
  if (!named)
    throw invalid(
      `The ${action.kind === 'term' ? 'term' : 'person'} of the action is not there any more.`,
      'Choose another one.',
      [{ field: 'action', message: 'is not there' }],
    );
  const common = { role: 'editor' as const, word: named.name, value: action.id };
  if (action.kind === 'term')
    return {
      ...common,
      field: 'terms',
      ...added('asset_term', 'term_id', 'term', { columns: '', values: '', where: '' }),
    };
  return {
    ...common,
    field: `${action.kind}s`,
    ...added('asset_person', 'person_id', 'person', {
      columns: ', role',
      values: `, '${action.kind}'`,
      where: ` and x.role = '${action.kind}'`,
    }),
  };
}
