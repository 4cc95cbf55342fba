import type { PoliciesChecked } from '@idrel/contract/access';
import { checkPolicies, type Idle, isNamedBy, isOver } from '@idrel/core/access';
import { kindsSql } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { meantTables, policiesInForce, readPeople, readTables } from './facts.ts';
import { listPolicies } from './policies.ts';
import { seeingInForce } from './sight.ts';

/** Which policies change nothing for anybody, and which masks clash, as far as who asks can see what they hold for. */
export async function checkedPolicies(db: Db, who: Who): Promise<PoliciesChecked> {
  who.mustAnywhere('policy administrator');
  const seen = await listPolicies(db, who);
  const domains = who.domainsAs('reader');
  const seesAll = !(await db.one('select from domain where id <> all($1::uuid[]) limit 1', [domains]));
  const policies = await policiesInForce(db);
  const people = await readPeople(db, null);
  const meant = policies.some(({ carried, effect }) => carried && effect !== 'allow')
    ? { condition: 'true', bind: [] }
    : meantTables(policies, 2);
  const tables = await readTables(
    db,
    `t.domain_id = any($1::uuid[]) and t.kind in (${kindsSql('holdsRows')}) and (${meant.condition})`,
    [domains, ...meant.bind],
    policies,
    'any',
  );
  const { idle, clashes } = checkPolicies(policies, people, tables);
  const forNobody = new Set(
    (await seeingInForce(db))
      .filter((policy) => !people.some((person) => !person.outside && isNamedBy(policy, person)))
      .map(({ id }) => id),
  );
  const name = new Map(seen.map((policy) => [policy.id, policy.name]));
  return {
    idle: seen.flatMap((policy): PoliciesChecked['idle'] => {
      if (!policy.enabled) return [];
      if (isOver(policy, Date.now())) return [{ policyId: policy.id, because: 'ended', by: [] }];
      const found: Idle | undefined = forNobody.has(policy.id) ? { because: 'nobody' } : idle.get(policy.id);
      // Of what lies where they cannot see, nothing is claimed; that nobody is meant is so everywhere.
      const reachesOn = !seesAll && (policy.assetIds.length === 0 || !policy.mayEdit);
      if (!found || (reachesOn && found.because !== 'nobody')) return [];
      const by = found.because === 'denied' ? found.by.flatMap((id) => name.get(id) ?? []) : [];
      return [{ policyId: policy.id, because: found.because, by }];
    }),
    clashes: clashes.flatMap(({ policies: ids, columns, example }) => {
      const both = ids.flatMap((id) => {
        const called = name.get(id);
        return called === undefined ? [] : [{ id, name: called }];
      });
      return both.length === ids.length ? [{ policies: both, columns, example: example.join('.') }] : [];
    }),
  };
}
