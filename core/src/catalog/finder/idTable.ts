/** Finds the slot of an id, and the id of a slot. A UUID is kept as its 128 bits: as texts, a million of them would take ten times the room. */
export class IdTable {
  /** Four numbers a slot. */
  #ids = new Uint32Array(4 * 1024);
  /** Slot + 1 where its id's hash leads, or nearest behind it; 0 where nothing is. */
  #places = new Int32Array(4096);
  #size = 0;

  get size(): number {
    return this.#size;
  }

  /** @returns the slot of the id, or -1 */
  slotOf(id: string): number {
    return this.#find(partsOf(id)).slot;
  }

  /** The slot of the id, which is given one when it has none. */
  add(id: string): number {
    const parts = partsOf(id);
    const found = this.#find(parts);
    if (found.slot >= 0) return found.slot;
    const slot = this.#size;
    this.#size += 1;
    if (this.#size * 4 > this.#ids.length) {
      const more = new Uint32Array(this.#ids.length * 2);
      more.set(this.#ids);
      this.#ids = more;
    }
    this.#ids.set(parts, slot * 4);
    this.#places[found.place] = slot + 1;
    if (this.#size * 2 > this.#places.length) this.#grow();
    return slot;
  }

  idOf(slot: number): string {
    let hex = '';
    for (let at = slot * 4; at < slot * 4 + 4; at += 1) hex += (this.#ids[at] ?? 0).toString(16).padStart(8, '0');
    return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-${hex.slice(12, 16)}-${hex.slice(16, 20)}-${hex.slice(20)}`;
  }

  #find([a, b, c, d]: Parts): { slot: number; place: number } {
    const mask = this.#places.length - 1;
    for (let place = mixed(a, c) & mask; ; place = (place + 1) & mask) {
      const slot = (this.#places[place] as number) - 1;
      if (slot < 0) return { slot, place };
      const at = slot * 4;
      if (this.#ids[at] === a && this.#ids[at + 1] === b && this.#ids[at + 2] === c && this.#ids[at + 3] === d)
        return { slot, place };
    }
  }

  #grow(): void {
    this.#places = new Int32Array(this.#places.length * 2);
    for (let slot = 0; slot < this.#size; slot += 1) {
      const at = slot * 4;
      const parts = [this.#ids[at], this.#ids[at + 1], this.#ids[at + 2], this.#ids[at + 3]] as unknown as Parts;
      this.#places[this.#find(parts).place] = slot + 1;
    }
  }
}

type Parts = readonly [number, number, number, number];

/** Read letter by letter, since a million of them are read at a start. */
function partsOf(id: string): Parts {
  let [a, b, c, d] = [0, 0, 0, 0];
  let digits = 0;
  for (let at = 0; at < id.length; at += 1) {
    const code = id.charCodeAt(at);
    if (code === DASH) continue;
    const digit = code <= NINE ? code - ZERO : (code | SMALL) - A + 10;
    if (digits < 8) a = (a << 4) | digit;
    else if (digits < 16) b = (b << 4) | digit;
    else if (digits < 24) c = (c << 4) | digit;
    else d = (d << 4) | digit;
    digits += 1;
  }
  return [a >>> 0, b >>> 0, c >>> 0, d >>> 0];
}
const [DASH, ZERO, NINE, A, SMALL] = [0x2d, 0x30, 0x39, 0x61, 0x20];

const mixed = (a: number, c: number): number => {
  const both = Math.imul(a ^ Math.imul(c, 0x9e3779b1), 0x85ebca6b);
  return (both ^ (both >>> 15)) >>> 0;
};
