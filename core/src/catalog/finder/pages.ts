import type { Bits } from './bits.ts';
import { tally } from './counts.ts';

/** What is sorted: by the place of a number that each slot has, and where that is the same by the order of all. */
export interface Sorted {
  readonly bits: Bits;
  /** How many slots there are in `bits`. */
  readonly total: number;
  /** A number of each slot, and the place of each number. */
  readonly column: ArrayLike<number>;
  readonly places: Uint32Array;
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
export function pageOf({ bits, total, column, places, order, rank }: Sorted, from: number, to: number): number[] {
  const end = Math.min(to, total);
  if (from >= end) return [];
  const placeOf = (slot: number) => places[column[slot] as number] as number;
  if (total * FEW < order.length) {
    const all: { slot: number; place: number }[] = [];
    bits.each((slot) => all.push({ slot, place: placeOf(slot) }));
    return all
      .sort((a, b) => a.place - b.place || (rank[a.slot] as number) - (rank[b.slot] as number))
      .slice(from, end)
      .map(({ slot }) => slot);
  }
  // How many stand before each place, then where the next one of each goes.
  const next = new Uint32Array(places.reduce((most, place) => Math.max(most, place), 0) + 1);
  tally(bits, column, places.length).forEach((count, number) => {
    const place = places[number] as number;
    next[place] = (next[place] as number) + count;
  });
  let before = 0;
  for (let place = 0; place < next.length; place += 1) {
    const count = next[place] as number;
    next[place] = before;
    before += count;
  }
  const page = new Array<number>(end - from);
  const { words } = bits;
  let left = end - from;
  for (let at = 0; at < order.length && left > 0; at += 1) {
    const slot = order[at] as number;
    if ((((words[slot >>> 5] as number) >>> (slot & 31)) & 1) === 0) continue;
    const place = placeOf(slot);
    const nth = next[place] as number;
    next[place] = nth + 1;
    if (nth < from || nth >= end) continue;
    page[nth - from] = slot;
    left -= 1;
  }
  return page;
}
