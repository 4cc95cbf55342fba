import { CLASH, holdsFor, isForAnyPurpose } from './decide.ts';
import { Engine, type Reader } from './engine.ts';
import { asShown, type Person, type Policy, type ReadableTable } from './types.ts';

/** Why a policy changes nothing for anybody. */
export type Idle =
  /** Nobody is in its groups, or all of them are excepted. */
  | { readonly because: 'nobody' }
  /** It finds no column: what it lists is gone, nothing carries its classes, its filter finds nothing. */
  | { readonly because: 'nothing' }
  /** Of an allow: all that it opens is denied to all whom it is for. */
  | { readonly because: 'denied'; readonly by: readonly string[] }
  /** Of what was given on: whoever gave it may not pass it on any more. */
  | { readonly because: 'not theirs' }
  /** Of a protect or a deny: nobody whom it is for may read any of it. */
  | { readonly because: 'not allowed' };

/** Policies whose masks meet on columns and cannot be reconciled, so that these are left empty. */
export interface MaskClash {
  readonly policies: readonly string[];
  readonly columns: number;
  /** One of the columns, as schema, table and column. */
  readonly example: readonly [schema: string, table: string, column: string];
}

export interface Checked {
  readonly idle: ReadonlyMap<string, Idle>;
  readonly clashes: readonly MaskClash[];
}

/**
 * Which policies change nothing, and which masks clash. People for whom the same policies are in force read the same: each such set is looked at once.
 * @param policies in force, as if their hours were now and their purposes stated
 */
export function checkPolicies(
  policies: readonly Policy[],
  people: readonly Person[],
  tables: readonly ReadableTable[],
): Checked {
  const engine = new Engine(policies);
  const groups = new Map<string, { readonly person: Person; readonly reader: Reader }>();
  const meant = new Set<string>();
  for (const person of people.map(asShown)) {
    for (const policy of policies) if (isForAnyPurpose(policy, person)) meant.add(policy.id);
    const reader = engine.for(person);
    groups.set(reader.key, { person, reader });
  }
  const acts = new Set<string>();
  const finds = new Set<string>();
  const deniedBy = new Map<string, Set<string>>();
  const clashes = new Map<string, MaskClash>();
  for (const table of tables) {
    // A policy that limits rows finds what it limits; which rows there are is not looked at.
    const meaning = engine.meaning(table);
    for (const policy of meaning)
      if (!finds.has(policy.id) && table.columns.some((column) => holdsFor(policy, table, column)))
        finds.add(policy.id);
    for (const { person, reader } of groups.values()) {
      const decision = reader.decide(table);
      if (decision.access !== 'no') for (const { reason } of decision.rowLimits) acts.add(reason.policyId);
      for (const column of decision.columns) {
        const source = table.columns.find(({ id }) => id === column.id);
        if (!source) continue;
        const allows = meaning.filter(
          (policy) => policy.effect === 'allow' && isForAnyPurpose(policy, person) && holdsFor(policy, table, source),
        );
        if (allows.length === 0) continue;
        const denies = column.reasons.filter(({ effect }) => effect === 'deny');
        for (const { policyId } of column.reasons) acts.add(policyId);
        for (const allow of denies.length > 0 ? allows : [])
          deniedBy.set(
            allow.id,
            new Set([...(deniedBy.get(allow.id) ?? []), ...denies.map(({ policyId }) => policyId)]),
          );
        const masking = column.reasons.flatMap(({ effect, policyId }) => (effect === 'protect' ? [policyId] : []));
        // Where something was given on, masks of its giver can meet others: that is between those two, and no flaw of the policies.
        if (column.instead === CLASH && masking.length > 1) {
          const key = [...masking].sort().join(' ');
          const known = clashes.get(key);
          clashes.set(key, {
            policies: masking,
            columns: (known?.columns ?? 0) + 1,
            example: known?.example ?? [table.schema, table.name, column.name],
          });
        }
      }
    }
  }
  const idle = new Map<string, Idle>();
  for (const policy of policies) {
    if (acts.has(policy.id)) continue;
    if (!meant.has(policy.id)) idle.set(policy.id, { because: 'nobody' });
    else if (!finds.has(policy.id)) idle.set(policy.id, { because: 'nothing' });
    else if (policy.giver !== null && !deniedBy.has(policy.id)) idle.set(policy.id, { because: 'not theirs' });
    else if (policy.effect === 'allow')
      idle.set(policy.id, { because: 'denied', by: [...(deniedBy.get(policy.id) ?? [])] });
    else idle.set(policy.id, { because: 'not allowed' });
  }
  return { idle, clashes: [...clashes.values()] };
}
