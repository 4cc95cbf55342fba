import { Bits } from './bits.ts';
import { put } from './books.ts';

/** Lists of numbers one behind the other: that of slot `at` begins at `starts[at]`. A million lists take two arrays. */
interface Lists {
  readonly starts: Uint32Array;
  readonly values: Uint32Array;
}
const NONE: Lists = { starts: new Uint32Array(1), values: new Uint32Array(0) };
const EMPTY: readonly number[] = [];
/** What has changed is put to the rest once it is more than so much of it. */
const [AT_LEAST, SHARE] = [4096, 0.25];

/**
 * Which assets are made from which, in one step. What stood when they were last put together lies in typed arrays, in both directions; what has changed since
 * beside them.
 */
export class Steps {
  #from = NONE;
  #into = NONE;
  /** Of slots whose list is not as it lies in the arrays: what it is now, and what is made from others by these lists. */
  readonly #changed = new Map<number, readonly number[]>();
  readonly #changedInto = new Map<number, Set<number>>();
  #waiting = 0;

  /** An asset is made from these, and from nothing else. */
  lead(slot: number, from: readonly number[]): void {
    const before = this.#changed.get(slot);
    if (before ? isSame(before, from) : this.#isKept(slot, from)) return;
    for (const one of before ?? EMPTY) this.#changedInto.get(one)?.delete(slot);
    this.#changed.set(slot, from);
    for (const one of from) put(this.#changedInto, one, slot);
    this.#waiting += 1 + from.length;
  }

  #isKept(slot: number, from: readonly number[]): boolean {
    const { starts, values } = this.#from;
    const begin = starts[slot] ?? 0;
    const length = (starts[slot + 1] ?? begin) - begin;
    return length === from.length && from.every((one, at) => values[begin + at] === one);
  }

  /** Puts what has changed to the rest. */
  #fold(size: number): void {
    const old = this.#from;
    const had = old.starts.length - 1;
    const listOf = (slot: number): ArrayLike<number> =>
      this.#changed.get(slot) ?? (slot < had ? old.values.subarray(old.starts[slot], old.starts[slot + 1]) : EMPTY);
    const starts = new Uint32Array(size + 1);
    for (let slot = 0; slot < size; slot += 1) starts[slot + 1] = (starts[slot] as number) + listOf(slot).length;
    const values = new Uint32Array(starts[size] as number);
    const intoStarts = new Uint32Array(size + 1);
    for (let slot = 0; slot < size; slot += 1) {
      const list = listOf(slot);
      const begin = starts[slot] as number;
      for (let at = 0; at < list.length; at += 1) {
        const one = list[at] as number;
        values[begin + at] = one;
        intoStarts[one + 1] = (intoStarts[one + 1] as number) + 1;
      }
    }
    for (let slot = 0; slot < size; slot += 1)
      intoStarts[slot + 1] = (intoStarts[slot + 1] as number) + (intoStarts[slot] as number);
    const into = new Uint32Array(values.length);
    const next = intoStarts.slice(0, size);
    for (let slot = 0; slot < size; slot += 1)
      for (let at = starts[slot] as number; at < (starts[slot + 1] as number); at += 1) {
        const one = values[at] as number;
        into[next[one] as number] = slot;
        next[one] = (next[one] as number) + 1;
      }
    this.#from = { starts, values };
    this.#into = { starts: intoStarts, values: into };
    this.#changed.clear();
    this.#changedInto.clear();
    this.#waiting = 0;
  }

  /**
   * What some assets are made from (or what is made from them), at any number of steps; those among it that lead back to one of them, too.
   * @param size slots there are, those that lists name among them
   */
  reached(start: Bits, way: 'upstream' | 'downstream', size: number): Bits {
    return this.#follow(start, way, size, false);
  }

  /** The same in one step. */
  next(start: Bits, way: 'upstream' | 'downstream', size: number): Bits {
    return this.#follow(start, way, size, true);
  }

  #follow(start: Bits, way: 'upstream' | 'downstream', size: number, once: boolean): Bits {
    if (this.#waiting > Math.max(AT_LEAST, this.#from.values.length * SHARE)) this.#fold(size);
    const { starts, values } = way === 'upstream' ? this.#from : this.#into;
    const had = starts.length - 1;
    const met = new Bits(size);
    const { words } = met;
    // Whatever is met is followed once.
    const queue = new Uint32Array(size);
    let last = 0;
    const meet = (slot: number) => {
      const [word, bit] = [slot >>> 5, 1 << (slot & 31)];
      if ((words[word] as number) & bit) return;
      words[word] = (words[word] as number) | bit;
      queue[last] = slot;
      last += 1;
    };
    const isChanged = this.#changed.size > 0;
    const follow = (slot: number) => {
      const now = isChanged && way === 'upstream' ? this.#changed.get(slot) : undefined;
      if (now) return now.forEach(meet);
      if (slot < had) {
        const end = starts[slot + 1] as number;
        // Downstream a step that lies in the arrays is none any more where the list that it came from has changed.
        if (isChanged && way === 'downstream') {
          for (let at = starts[slot] as number; at < end; at += 1)
            if (!this.#changed.has(values[at] as number)) meet(values[at] as number);
        } else for (let at = starts[slot] as number; at < end; at += 1) meet(values[at] as number);
      }
      if (isChanged && way === 'downstream') this.#changedInto.get(slot)?.forEach(meet);
    };
    start.each(follow);
    for (let at = 0; !once && at < last; at += 1) follow(queue[at] as number);
    return met;
  }
}

const isSame = (one: readonly number[], other: readonly number[]): boolean =>
  one.length === other.length && one.every((value, at) => value === other[at]);
