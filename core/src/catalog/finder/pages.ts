import type { Bits } from './bits.ts';

/** What is sorted: by a whole number that each slot has, and where that is the same by the order of all. */
export interface Sorted {
  readonly bits: Bits;
  /** How many slots there are in `bits`. */
  readonly total: number;
  /** From 0 up to, not including, `buckets`. */
  readonly bucketOf: (slot: number) => number;
  readonly buckets: number;
  /** All slots in their order, and the place of each in it. */
  readonly order: Uint32Array;
  readonly rank: ArrayLike<number>;
}

/** Where so many times fewer are found than there are, they are sorted among themselves. */
const FEW = 64;

/**
 * The slots from one place of the sorted list up to, not including, another. Of many only those on the page are put in order: how many come before each bucket
 * is counted, then all are passed in their order (the two walks of a counting sort; Seward 1954), however deep the page.
 */
export function pageOf({ bits, total, bucketOf, buckets, order, rank }: Sorted, from: number, to: number): number[] {
  const end = Math.min(to, total);
  if (from >= end) return [];
  if (total * FEW < order.length) {
    const all: { slot: number; bucket: number }[] = [];
    bits.each((slot) => all.push({ slot, bucket: bucketOf(slot) }));
    return all
      .sort((a, b) => a.bucket - b.bucket || (rank[a.slot] as number) - (rank[b.slot] as number))
      .slice(from, end)
      .map(({ slot }) => slot);
  }
  /** The place at which the next one of each bucket stands. */
  const next = new Uint32Array(buckets);
  bits.each((slot) => {
    const bucket = bucketOf(slot);
    next[bucket] = (next[bucket] as number) + 1;
  });
  let before = 0;
  for (let bucket = 0; bucket < buckets; bucket += 1) {
    const count = next[bucket] as number;
    next[bucket] = before;
    before += count;
  }
  const page = new Array<number>(end - from);
  let left = end - from;
  for (let at = 0; at < order.length && left > 0; at += 1) {
    const slot = order[at] as number;
    if (!bits.has(slot)) continue;
    const bucket = bucketOf(slot);
    const place = next[bucket] as number;
    next[bucket] = place + 1;
    if (place < from || place >= end) continue;
    page[place - from] = slot;
    left -= 1;
  }
  return page;
}
