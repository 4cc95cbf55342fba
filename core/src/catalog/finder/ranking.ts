import type { Conditions } from './conditions.ts';
import { asPlace, type Read } from './readings.ts';
import type { Store } from './store.ts';

/** One way to read a word that was asked for, and what it is worth beside the word as it was typed. */
export interface Reading {
  readonly word: string;
  readonly whole: boolean;
  readonly worth: number;
}

/** Why an asset stands where it does: each part adds to its score. */
export interface Reasons {
  /** How well the words fit, from 0 to 1; rarer ones weigh more. */
  readonly text: number;
  /** The whole name is what was asked for. */
  readonly name: number;
  /** How much of the name was asked for. */
  readonly share: number;
  readonly kind: number;
  readonly standing: number;
  readonly use: number;
  readonly complete: number;
  readonly own: number;
}

/** What each reason is worth at most, beside how well the words fit (1). Held by the judged searches. */
const WORTH = { name: 0.6, share: 0.25, use: 0.1, described: 0.04, owned: 0.04, own: 0.1 } as const;
const BY_KIND: Record<string, number> = { table: 0.12, view: 0.08, 'materialised view': 0.08, column: -0.12 };
/** In the order of the standings. */
const BY_STANDING = [0, 0.06, 0.12, -0.15] as const;
/** A word that fits better than this fits in the name. */
const NAMED = 0.36;
/** A path says nothing of what lies around what it leads to. */
const NOWHERE: ReadonlySet<string> = new Set();
/** Ten to this many uses are worth all that use can be. */
const MANY_USES = 6;

/** The lowest and the highest score there can be. */
export const LOWEST = -0.3;
export const HIGHEST =
  1 + WORTH.name + WORTH.share + 0.12 + 0.12 + WORTH.use + WORTH.described + WORTH.owned + WORTH.own;

/**
 * Scores assets for the words that were asked for.
 * @param read for each word the ways to read it, and the paths among them
 * @param own domains of whoever asks
 */
export function scorer(
  store: Store,
  conditions: Conditions,
  { asked, places }: Pick<Read, 'asked' | 'places'>,
  own: ReadonlySet<string>,
): { score: (slot: number) => number; reasons: (slot: number) => Reasons } {
  const { columns } = store;
  const total = Math.max(1, store.size);
  const words = asked.map((readings) => {
    const found = readings.map((reading) => ({
      ...conditions.word(reading.word, reading.whole),
      worth: reading.worth,
    }));
    const count = found.reduce((sum, { bits }) => sum + bits.count(), 0);
    // A word that stands everywhere tells little (inverse document frequency; Spärck Jones 1972).
    return { found, weight: 0.3 + 0.7 * (Math.log(1 + total / (1 + count)) / Math.log(1 + total)) };
  });
  const weights = words.reduce((sum, { weight }) => sum + weight, 0) || 1;
  const kinds = store.kinds.values.map((kind) => BY_KIND[kind] ?? 0);
  const mine = store.domains.which((id) => own.has(id));
  const called = places.length > 0 ? conditions.passing(asPlace(places), NOWHERE) : null;
  const plain = asked.map((readings) => readings[0]?.word ?? '');
  /** The parts of the score of one asset, in the order of {@link Reasons}: one list for all, since there may be a million of them. */
  const parts = new Float64Array(8);
  const weigh = (slot: number): void => {
    let [fits, named] = [0, 0];
    for (const { found, weight } of words) {
      let best = 0;
      for (const { fit, worth } of found) best = Math.max(best, ((fit[slot] as number) / 255) * worth);
      fits += best * weight;
      if (best > NAMED) named += 1;
    }
    const length = store.nameWordsOf(slot).length;
    // A name of several words stands among them once more as a whole.
    const share = length === 0 ? 0 : Math.min(1, named / (length > 1 ? length - 1 : 1));
    parts[0] = fits / weights;
    parts[1] = share === 1 && store.isCalled(slot, plain) ? WORTH.name : 0;
    parts[2] = WORTH.share * share;
    // What stands at the path that was asked for is what was meant.
    if (called?.has(slot)) [parts[0], parts[1], parts[2]] = [1, WORTH.name, WORTH.share];
    parts[3] = kinds[columns.kind[slot] as number] ?? 0;
    parts[4] = BY_STANDING[columns.standing[slot] as number] ?? 0;
    parts[5] = WORTH.use * Math.min(1, Math.log10(1 + (columns.uses[slot] as number)) / MANY_USES);
    parts[6] = (columns.described[slot] ? WORTH.described : 0) + (columns.owners[slot] ? WORTH.owned : 0);
    parts[7] = mine[columns.domain[slot] as number] ? WORTH.own : 0;
  };
  return {
    score(slot) {
      weigh(slot);
      let sum = 0;
      for (const part of parts) sum += part;
      return sum;
    },
    reasons(slot) {
      weigh(slot);
      const [text = 0, name = 0, share = 0, kind = 0, standing = 0, use = 0, complete = 0, ofOwn = 0] = parts;
      return { text, name, share, kind, standing, use, complete, own: ofOwn };
    },
  };
}
