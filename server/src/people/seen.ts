/**
 * SQL of whether somebody sees an asset: by its domain, or by a policy that lets it be seen without a role there.
 * @param asset what it is called in the statement
 * @param seen the parameter (`$2`) of what they see by: `who.domainsAs('reader')`
 */
export const isSeen = (asset: string, seen: string): string =>
  `((${asset}.domain_id = any(${seen}::uuid[]) or ${asset}.opened_id = any(${seen}::uuid[])) is true)`;
