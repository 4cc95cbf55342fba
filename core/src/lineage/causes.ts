/** What can be behind a figure that looks wrong, by how it came to be known. */
export const CAUSE_KINDS = ['failed run', 'failed check', 'gone', 'late run', 'changed', 'notice', 'retiring'] as const;
export type CauseKind = (typeof CAUSE_KINDS)[number];

/** Something that happened upstream. */
export interface Happened {
  readonly kind: CauseKind;
  /** When, in milliseconds since 1970; null where it has no moment, and holds now. */
  readonly at: number | null;
  /** Steps from what is asked about; 0: in itself. */
  readonly distance: number;
}

/** How much each says by itself: what failed is a likelier cause than what was only said. */
const WEIGHT: Readonly<Record<CauseKind, number>> = {
  'failed run': 1,
  'failed check': 0.9,
  gone: 0.85,
  'late run': 0.8,
  changed: 0.7,
  notice: 0.55,
  retiring: 0.3,
};
/** Days after which something says half as much. */
const HALF_LIFE = 5;
const DAY = 86_400_000;
/** What each step away takes. */
const PER_STEP = 0.25;

/**
 * How likely something that happened upstream is behind what is seen now, from 0 to 1. It is an order, no probability: by kind, halved every five days, and
 * less with each step away. What holds now counts as of now; what lies in the future too.
 * @param now milliseconds since 1970
 */
export function likelihood({ kind, at, distance }: Happened, now: number): number {
  const days = at === null ? 0 : Math.max(0, (now - at) / DAY);
  return (WEIGHT[kind] * 0.5 ** (days / HALF_LIFE)) / (1 + PER_STEP * Math.max(0, distance));
}

/** The likeliest first; of equals the nearest, then the newest. */
export function inOrder<H extends Happened>(all: readonly H[], now: number): (H & { readonly likelihood: number })[] {
  return all
    .map((one) => ({ ...one, likelihood: likelihood(one, now) }))
    .sort((a, b) => b.likelihood - a.likelihood || a.distance - b.distance || (b.at ?? now) - (a.at ?? now));
}

/**
 * When a flow should have run again, by its last ends: the usual time between them (the median), and as much grace. Null where that cannot be said: of fewer
 * than four ends, or of ends that keep no rhythm (the middle half of the times between differs by more than half).
 * @param ends of runs that went well, in milliseconds since 1970, in any order
 */
export function dueAgain(ends: readonly number[]): number | null {
  const inTime = [...ends].sort((a, b) => a - b);
  const gaps = inTime.slice(1).map((end, at) => end - (inTime[at] ?? end));
  if (gaps.length < 3) return null;
  const sorted = [...gaps].sort((a, b) => a - b);
  const at = (share: number) => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] ?? 0;
  const [low, median, high] = [at(0.25), at(0.5), at(0.75)];
  if (median <= 0 || high - low > median / 2) return null;
  return (inTime.at(-1) ?? 0) + 2 * median;
}
