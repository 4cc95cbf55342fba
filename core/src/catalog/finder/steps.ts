import { Bits } from './bits.ts';
import { put } from './books.ts';

/** Which assets are made from which, in one step; kept for those that are. */
export class Steps {
  readonly #from = new Map<number, readonly number[]>();
  readonly #into = new Map<number, Set<number>>();

  /** An asset is made from these, and from nothing else. */
  lead(slot: number, from: readonly number[]): void {
    for (const before of this.#from.get(slot) ?? []) this.#into.get(before)?.delete(slot);
    if (from.length === 0) {
      this.#from.delete(slot);
      return;
    }
    this.#from.set(slot, from);
    for (const one of from) put(this.#into, one, slot);
  }

  /** What some assets are made from (or what is made from them), at any number of steps; those among it that lead back to one of them, too. */
  reached(start: Bits, way: 'upstream' | 'downstream', size: number): Bits {
    const next: ReadonlyMap<number, Iterable<number>> = way === 'upstream' ? this.#from : this.#into;
    const met = new Bits(size);
    let ring: number[] = [];
    const meet = (slots: Iterable<number> | undefined) => {
      for (const slot of slots ?? [])
        if (!met.has(slot)) {
          met.add(slot);
          ring.push(slot);
        }
    };
    for (const [slot, slots] of next) if (start.has(slot)) meet(slots);
    while (ring.length > 0) {
      const here = ring;
      ring = [];
      for (const slot of here) meet(next.get(slot));
    }
    return met;
  }
}
