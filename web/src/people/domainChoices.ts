import type { DomainAnswer } from '@idrel/contract/people';
import { useDomainsQuery } from './api.ts';

/** Domains as a tree, in lines. */
export function inLines(
  domains: readonly DomainAnswer[],
  parent: string | null = null,
  depth = 0,
): (DomainAnswer & { depth: number })[] {
  return domains
    .filter(({ parentId }) => parentId === parent)
    .flatMap((domain) => [{ ...domain, depth }, ...inLines(domains, domain.id, depth + 1)]);
}

/** One line of the tree as it is offered in a list. */
export const choiceOf = ({ id, name, depth }: { id: string; name: string; depth: number }) => ({
  value: id,
  label: `${'\u2003'.repeat(depth)}${name}`,
});

/** All domains, as a list to choose from. */
export const useDomainChoices = () => inLines(useDomainsQuery().data ?? []).map(choiceOf);
