import type { ClassCarriers } from '@idrel/contract/recognition';
import { valuesOf } from '@idrel/core/catalog';
import { type ClassUse, inTheWay } from '../recognition/index.ts';

/** Policies that rest on classes, or whose filters name them, and what they hold by them. */
export const POLICY_CLASS_USE: ClassUse = {
  async named(db, key) {
    const policies = await db.rows<ClassCarriers['policies'][number]>(
      `select p.id, p.name, count(o.class_key) = 1 as alone
       from policy p
       join policy_object mine on mine.policy_id = p.id and mine.class_key = $1
       join policy_object o on o.policy_id = p.id and o.class_key is not null
       group by p.id
       order by p.name`,
      [key],
    );
    const filtered = await db.rows<{ id: string; name: string; filter: string }>(
      "select id, name, filter from policy where filter ilike '%class%' or filter ilike '%arrived%' order by name",
    );
    const byFilter = filtered.flatMap(({ id, name, filter }) =>
      !policies.some((policy) => policy.id === id) &&
      (valuesOf(filter, 'class').has(key) || valuesOf(filter, 'arrived').has(key))
        ? [{ id, name, alone: false }]
        : [],
    );
    return { policies: [...policies, ...byFilter] };
  },
  // A class that is taken out of a policy would open what the policy guards: that is for those who may change the policy.
  mayGo({ policies }) {
    if (policies.length > 0)
      throw inTheWay(
        'class-guards',
        policies.map(({ name }) => `“${name}”`),
        ['rests', 'rest'],
        'on this class: without it, values could be shown',
        'Let somebody with the right over the policy change or remove it first.',
      );
  },
  forget: (tx, key) => tx.run('delete from class_hold where class_key = $1', [key]),
};
