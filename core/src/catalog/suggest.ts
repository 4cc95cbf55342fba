import { fold } from '../text/index.ts';

/** Where something that could be said of an asset comes from. */
export const CLUES = ['comment', 'lineage', 'same name', 'ends alike', 'above', 'beside', 'writes'] as const;
export type ClueKind = (typeof CLUES)[number];
/** What can be suggested. */
export const SUGGESTED = ['description', 'term', 'tag', 'class', 'owner'] as const;
export type Suggested = (typeof SUGGESTED)[number];

/** One thing that speaks for saying something of an asset. */
export interface Clue {
  readonly assetId: string;
  readonly field: Suggested;
  /** What would be written: a text, the id of a term or a person, the id of a tag (with a value `id/value`), or the key of a class. */
  readonly value: string;
  /** As people read it. */
  readonly label: string;
  readonly kind: ClueKind;
  /** Of so many that could say so … */
  readonly of: number;
  /** … so many do. */
  readonly say: number;
  /** An asset that says so. */
  readonly by: { readonly id: string; readonly path: string } | null;
}

export interface Suggestion extends Pick<Clue, 'assetId' | 'field' | 'value' | 'label'> {
  readonly clues: readonly Pick<Clue, 'kind' | 'of' | 'say' | 'by'>[];
  /** How much speaks for it, from 0 to 1. */
  readonly weight: number;
}

/** How much each kind of clue counts when all agree, and how fast it grows with how many do. */
const WORTH: Readonly<Record<ClueKind, readonly [most: number, each: number]>> = {
  comment: [0.65, 1],
  lineage: [0.8, 1],
  'same name': [0.75, 0.5],
  'ends alike': [0.6, 0.35],
  above: [0.7, 1],
  beside: [0.6, 0.4],
  writes: [0.4, 0.3],
};

/** What less speaks for is not suggested: of columns of one name that each mean something else, no text says much of another. */
const LEAST: Partial<Record<Suggested, number>> = { description: 0.2 };

/** What one clue is worth: less where others say otherwise, and where few say anything. */
export function worthOf({ kind, of, say }: Pick<Clue, 'kind' | 'of' | 'say'>): number {
  const [most, each] = WORTH[kind];
  return most * (say / Math.max(1, of)) * (1 - (1 - each) ** say);
}

/** The same in whatever letters and spaces. */
const sameAs = (field: Suggested, value: string) =>
  field === 'description'
    ? fold(value)
        .replace(/[\s.]+/g, ' ')
        .trim()
    : value;

/** So that what was refused once never comes back, also with other spaces. */
export const refusalOf = ({ assetId, field, value }: Pick<Clue, 'assetId' | 'field' | 'value'>): string =>
  `${assetId} ${field} ${sameAs(field, value)}`;

/**
 * What could be said of assets, by what speaks for it: clues for the same are put together as if they knew nothing of each other (1 − ∏(1 − worth)).
 * @param refused what was refused before ({@link refusalOf})
 * @param most so many for one field of one asset
 * @returns the strongest first
 */
export function suggestionsFrom(clues: readonly Clue[], refused: ReadonlySet<string>, most = 3): Suggestion[] {
  const same = new Map<string, Clue[]>();
  for (const clue of clues) {
    const key = refusalOf(clue);
    if (refused.has(key) || clue.value.trim() === '') continue;
    same.set(key, [...(same.get(key) ?? []), clue]);
  }
  const all = [...same.values()].flatMap((group): Suggestion[] => {
    const sorted = [...group].sort((a, b) => worthOf(b) - worthOf(a));
    const [first] = sorted;
    if (!first) return [];
    const { assetId, field, value, label } = first;
    const weight = 1 - sorted.reduce((left, clue) => left * (1 - worthOf(clue)), 1);
    if (weight < (LEAST[field] ?? 0)) return [];
    return [
      { assetId, field, value, label, weight, clues: sorted.map(({ kind, of, say, by }) => ({ kind, of, say, by })) },
    ];
  });
  all.sort((a, b) => b.weight - a.weight || a.assetId.localeCompare(b.assetId) || a.value.localeCompare(b.value));
  const given = new Map<string, number>();
  return all.filter(({ assetId, field }) => {
    const key = `${assetId} ${field}`;
    const before = given.get(key) ?? 0;
    given.set(key, before + 1);
    return before < most;
  });
}
