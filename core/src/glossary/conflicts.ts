import { fold } from '../text/index.ts';
import { type Concept, labelsOf } from './vocabulary.ts';

/** What can be amiss among terms. */
export const CONFLICT_KINDS = {
  'same name': 'Two terms are called the same',
  'said twice': 'One text is several kinds of label of a term',
  'related above': 'A term is related to one that lies above it',
  'matched twice': 'A term is matched exactly and otherwise with the same one',
  'retired in use': 'A retired term is still carried by assets',
  'below retired': 'A term lies below a retired one',
  undefined: 'An agreed term has no definition',
  orphaned: 'A term stands alone: nothing is broader, narrower or related, and no asset carries it',
  'two in one report': 'Two terms that are called the same are used in one report',
} as const;
export type ConflictKind = keyof typeof CONFLICT_KINDS;

export interface Conflict {
  readonly kind: ConflictKind;
  /** URIs of the terms that it is about. */
  readonly terms: readonly string[];
  /** What it is that they share, or more to tell. */
  readonly detail: string;
}

/**
 * What is amiss among terms, by the integrity conditions of SKOS (Reference, W3C 2009: S13, S27, S46) and by what a glossary is for.
 * Circles there are none: nothing that would close one is taken in.
 * @param assets how many assets carry each term, by its URI
 */
export function conflictsIn(concepts: readonly Concept[], assets: ReadonlyMap<string, number>): Conflict[] {
  const byUri = new Map(concepts.map((concept) => [concept.uri, concept]));
  const hasNarrower = new Set(concepts.flatMap(({ broader }) => broader));
  const found: Conflict[] = [...sameNames(concepts)];
  for (const concept of concepts) {
    const { uri, broader, related, matches, status } = concept;
    const add = (kind: ConflictKind, detail: string, ...others: string[]) =>
      found.push({ kind, terms: [uri, ...others], detail });
    const texts = new Set<string>();
    for (const { language, text } of labelsOf(concept)) {
      const key = `${language} ${text}`;
      if (texts.has(key)) add('said twice', text);
      texts.add(key);
    }
    const above = aboveOf(uri, byUri);
    for (const other of related) if (above.has(other)) add('related above', '', other);
    const exact = new Set(matches.filter(({ kind }) => kind === 'exact').map((match) => match.uri));
    for (const match of matches)
      if (match.kind !== 'exact' && match.kind !== 'close' && exact.has(match.uri)) add('matched twice', match.uri);
    const carriers = assets.get(uri) ?? 0;
    if (status === 'retired' && carriers > 0) add('retired in use', String(carriers));
    for (const other of broader)
      if (status !== 'retired' && byUri.get(other)?.status === 'retired') add('below retired', '', other);
    if (status === 'agreed' && !concept.definition) add('undefined', '');
    if (broader.length + related.length + carriers === 0 && !hasNarrower.has(uri)) add('orphaned', '');
  }
  return found;
}

/** Terms with a name in common, hidden ones aside: those are for finding, and may lead to several. */
export function* sameNames(concepts: readonly Concept[]): Iterable<Conflict> {
  const called = new Map<string, { text: string; uris: Set<string> }>();
  for (const concept of concepts) {
    if (concept.status === 'retired') continue;
    for (const { kind, language, text } of labelsOf(concept)) {
      if (kind === 'hidden') continue;
      const key = `${language} ${fold(text)}`;
      const known = called.get(key);
      if (known) known.uris.add(concept.uri);
      else called.set(key, { text, uris: new Set([concept.uri]) });
    }
  }
  for (const { text, uris } of called.values())
    if (uris.size > 1) yield { kind: 'same name', terms: [...uris], detail: text };
}

/** URIs of all that lies above a term. */
function aboveOf(uri: string, byUri: ReadonlyMap<string, Concept>): Set<string> {
  const above = new Set<string>();
  const waiting = [...(byUri.get(uri)?.broader ?? [])];
  for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
    if (above.has(next)) continue;
    above.add(next);
    waiting.push(...(byUri.get(next)?.broader ?? []));
  }
  return above;
}
