import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { inDomains } from './past.ts';

/** Policies by their names, as far as somebody may see them. */
export type PolicyNames = ReadonlyMap<string, string>;

const HIDDEN = 'a policy that you may not see';

/** Those of which somebody may see what they are about, or a part of it. */
export const policyNames = async (db: Db, who: Who): Promise<PolicyNames> =>
  new Map(
    (
      await db.rows<{ id: string; name: string }>(
        `
          select p.id, p.name
          from policy p
          where exists (
              select from policy_object o join asset a on a.id = o.asset_id
              where o.policy_id = p.id and ${inDomains(db, '$1', 'a')})
            or not exists (select from policy_object o where o.policy_id = p.id and o.asset_id is not null)`,
        [who.domainsAs('reader')],
      )
    ).map(({ id, name }) => [id, name]),
  );

/** What a policy is called. */
export const policyName = (id: string, names: PolicyNames): string => names.get(id) ?? HIDDEN;

/** Policies as they are told: of those that somebody may not see, that there are such. */
export function policiesNamed(
  ids: Iterable<string>,
  names: PolicyNames,
): { readonly id: string | null; readonly name: string }[] {
  const found = new Map<string, { readonly id: string | null; readonly name: string }>();
  for (const id of ids)
    found.set(names.has(id) ? id : '', { id: names.has(id) ? id : null, name: policyName(id, names) });
  return [...found.values()];
}
