import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { listPolicies } from './policies.ts';

/** Policies by their names, as far as somebody may see them. */
export type PolicyNames = ReadonlyMap<string, string>;

const HIDDEN = 'a policy that you may not see';

export const policyNames = async (db: Db, who: Who): Promise<PolicyNames> =>
  new Map((await listPolicies(db, who)).map(({ id, name }) => [id, name]));

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
