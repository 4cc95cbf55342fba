import type { ManyAction } from '@idrel/contract/curation';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import {
  type Decision,
  decideMany,
  decisionKept,
  knownClasses,
  putDecisionsBack,
  saidOfClass,
} from '../recognition/index.ts';
import type { ActionSql } from './actions.ts';
import { byHand } from './decided.ts';

/** Confirms a class in columns, or dismisses it, as one does with a finding; what policies rest on stays protected. */
export async function ofClass(
  db: Db,
  { key, reason, remove = false }: Extract<ManyAction, { kind: 'class' }>,
  who: Who | undefined,
): Promise<ActionSql> {
  const about = (await knownClasses(db)).get(key);
  if (!about || (about.retired && !remove))
    throw invalid('The class of the action is not there any more.', 'Choose another one.', [
      { field: 'action', message: 'is not there' },
    ]);
  const decision: Decision = remove ? 'dismissed' : 'confirmed';
  // The value is the class with what is decided: what is kept to put back is asked for by the class alone.
  const classOf = (value: string) => `(${value}::json ->> 'key')`;
  const said = (value: string) => saidOfClass(classOf(value));
  const field = `class ${about.label}`;
  return {
    role: 'steward',
    field,
    told: `${remove ? 'Without' : 'With'} class: ${about.label}${reason ? `: ${reason}` : ''}`,
    value: JSON.stringify({ key, field }),
    suits: "a.kind = 'column'",
    // Nothing has to be dismissed where nobody and nothing claims it.
    same: (value) =>
      remove ? `coalesce(${said(value)}, 'dismissed') = 'dismissed'` : `coalesce(${said(value)} = 'confirmed', false)`,
    // Where a decision was taken back, the journal alone tells.
    decided: (value) => `
      coalesce((
        select json_build_object('by', p.name, 'at', d.decided_at)
        from finding_decision d
        join person p on p.id = d.decided_by
        where d.asset_id = a.id and d.class_key = ${classOf(value)} and d.decision <> '${decision}'
      ), ${byHand(`(${value}::json ->> 'field')`)})`,
    stands: (value) =>
      `exists (select from finding_decision d where d.asset_id = a.id and d.class_key = ${classOf(value)} and d.decision = '${decision}')`,
    now: `to_json(${saidOfClass(`'${key.replaceAll("'", "''")}'`)})`,
    before: (value) => decisionKept(classOf(value)),
    async apply(tx, ids) {
      if (who) await decideMany(tx, who.id, ids, key, decision, reason);
    },
    revert: (tx, _value, kept) => putDecisionsBack(tx, key, kept),
  };
}
