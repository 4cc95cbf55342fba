/** A set of slots, one bit each: what a condition finds among a million assets takes 125 kB, and two of them are joined in microseconds. */
export class Bits {
  readonly words: Uint32Array;

  constructor(size: number) {
    this.words = new Uint32Array((size + 31) >>> 5);
  }

  static all(size: number): Bits {
    const bits = new Bits(size);
    bits.words.fill(0xffffffff);
    if (size & 31) bits.words[bits.words.length - 1] = (2 ** (size & 31) - 1) >>> 0;
    return bits;
  }

  add(slot: number): void {
    this.words[slot >>> 5] = (this.words[slot >>> 5] as number) | (1 << (slot & 31));
  }

  has(slot: number): boolean {
    return (((this.words[slot >>> 5] ?? 0) >>> (slot & 31)) & 1) === 1;
  }

  copy(): Bits {
    const bits = new Bits(0);
    (bits as { words: Uint32Array }).words = this.words.slice();
    return bits;
  }

  /** Keeps what the other has too. @returns itself */
  and(other: Bits): this {
    const [mine, theirs] = [this.words, other.words];
    for (let at = 0; at < mine.length; at += 1) mine[at] = (mine[at] as number) & (theirs[at] ?? 0);
    return this;
  }

  or(other: Bits): this {
    const [mine, theirs] = [this.words, other.words];
    for (let at = 0; at < mine.length; at += 1) mine[at] = (mine[at] as number) | (theirs[at] ?? 0);
    return this;
  }

  /** Takes away what the other has. @returns itself */
  without(other: Bits): this {
    const [mine, theirs] = [this.words, other.words];
    for (let at = 0; at < mine.length; at += 1) mine[at] = (mine[at] as number) & ~(theirs[at] ?? 0);
    return this;
  }

  count(): number {
    let total = 0;
    for (const word of this.words) if (word !== 0) total += ones(word);
    return total;
  }

  some(): boolean {
    return this.words.some((word) => word !== 0);
  }

  /** Calls back for each slot, the least first. */
  each(work: (slot: number) => void): void {
    for (let at = 0; at < this.words.length; at += 1) {
      let word = this.words[at] as number;
      while (word !== 0) {
        const low = word & -word;
        work((at << 5) + (31 - Math.clz32(low)));
        word ^= low;
      }
    }
  }
}

/** How many bits of 32 are set (Hacker's Delight, 5-1). */
function ones(word: number): number {
  let left = word - ((word >>> 1) & 0x55555555);
  left = (left & 0x33333333) + ((left >>> 2) & 0x33333333);
  return (((left + (left >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24;
}
