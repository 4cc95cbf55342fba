import type { DomainAnswer } from '@idrel/contract/people';
import type { SourceAnswer } from '@idrel/contract/sources';

export type SourceLine<S> =
  | { readonly heading: string; readonly depth: number }
  | { readonly source: S; readonly depth: number };

/** Sources in the order of their list, or below their domains in the tree; domains without any, at any depth, are left out. */
export function ordered<S extends Pick<SourceAnswer, 'domainId'>>(
  sources: readonly S[],
  domains: readonly Pick<DomainAnswer, 'id' | 'parentId' | 'name'>[] | undefined,
): SourceLine<S>[] {
  if (!domains) return sources.map((source) => ({ source, depth: 0 }));
  const below = (parentId: string | null, depth: number): SourceLine<S>[] =>
    domains
      .filter(
        (domain) =>
          domain.parentId === parentId || (parentId === null && !domains.some((other) => other.id === domain.parentId)),
      )
      .sort((a, b) => a.name.localeCompare(b.name, 'en'))
      .flatMap((domain): SourceLine<S>[] => {
        const lines = [
          ...sources
            .filter((source) => source.domainId === domain.id)
            .map((source): SourceLine<S> => ({ source, depth: depth + 1 })),
          ...below(domain.id, depth + 1),
        ];
        return lines.length > 0 ? [{ heading: domain.name, depth }, ...lines] : [];
      });
  return below(null, 0);
}
