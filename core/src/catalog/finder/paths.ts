import { fold } from '../../text/index.ts';
import type { Bits } from './bits.ts';
import type { Store } from './store.ts';

/** How the names of a source are joined to a path, and whether the topmost is left out where others follow. */
export interface PathsOf {
  readonly separator: string;
  readonly topHidden: boolean;
}

/** What of a pattern may still come, once part of a text was read: places in it, ascending. None: nothing can. */
type Places = readonly number[];

/** The number of the places from which nothing can come. */
const NOWHERE = 0;

/**
 * Reads texts against a pattern piece by piece, as its automaton (Thompson 1968): where two texts are at the same places, whatever follows is read once. Paths of
 * a million assets are read in the time of their different names.
 */
class Reading {
  readonly #pattern: string;
  readonly #known = new Map<string, number>();
  readonly #sets: Places[] = [];
  readonly #ends: boolean[] = [];
  /** Of each places where a letter leads, by its code. */
  readonly #steps: Map<number, number>[] = [];
  readonly #nameBook: readonly string[];
  /** Where names lead from some places, by both numbers; -1: not read yet. */
  readonly #names: Int32Array[] = [];

  constructor(pattern: string, nameBook: readonly string[]) {
    this.#nameBook = nameBook;
    this.#number([]);
    this.#pattern = fold(pattern).replace(/\*+/g, '*');
  }

  /** The number of the places before anything is read. */
  begin(): number {
    return this.#number(this.#closed([0]));
  }

  /** The number of the places after a name, from others: one that was read from there is not read again. */
  overName(places: number, name: number): number {
    if (places === NOWHERE) return NOWHERE;
    let known = this.#names[places];
    if (!known) {
      known = new Int32Array(this.#nameBook.length).fill(-1);
      this.#names[places] = known;
    }
    const led = known[name] as number;
    if (led >= 0) return led;
    const now = this.over(places, this.#nameBook[name] as string);
    known[name] = now;
    return now;
  }

  /** The number of the places after a text, from others. */
  over(places: number, text: string): number {
    let here = places;
    const letters = fold(text);
    for (let at = 0; at < letters.length && here !== NOWHERE; at += 1) {
      const steps = this.#steps[here] as Map<number, number>;
      const letter = letters.charCodeAt(at);
      let next = steps.get(letter);
      if (next === undefined) {
        next = this.#number(this.#after(this.#sets[here] as Places, letters[at] as string));
        steps.set(letter, next);
      }
      here = next;
    }
    return here;
  }

  /** Whether a text may end here. */
  ends(places: number): boolean {
    return this.#ends[places] as boolean;
  }

  #after(places: Places, letter: string): Places {
    const led: number[] = [];
    for (const at of places) {
      const wanted = this.#pattern[at];
      if (wanted === '*') led.push(at);
      else if (wanted === letter) led.push(at + 1);
    }
    return this.#closed(led);
  }

  /** With what stars let pass without a letter. */
  #closed(places: Places): Places {
    const all = new Set<number>();
    for (let at of places)
      for (all.add(at); this.#pattern[at] === '*'; ) {
        at += 1;
        all.add(at);
      }
    return [...all].sort((a, b) => a - b);
  }

  #number(places: Places): number {
    const key = places.join(' ');
    const known = this.#known.get(key);
    if (known !== undefined) return known;
    this.#known.set(key, this.#sets.length);
    this.#sets.push(places);
    this.#steps.push(new Map());
    this.#ends.push(places.length > 0 && places.at(-1) === this.#pattern.length);
    return this.#sets.length - 1;
  }
}

/** Between the names of a key. */
const BETWEEN = '\u001f';

/** Adds the assets whose paths fit a pattern. */
export function addFitting(store: Store, pattern: string, bits: Bits): void {
  const { columns, sources, names } = store;
  const reading = new Reading(pattern, store.nameBook.values);
  const begun = reading.begin();
  const joins = sources.values.map((id) => names.paths.get(id) ?? { separator: '.', topHidden: false });
  /** Of each asset that was passed: where its path leads. */
  const led = new Uint32Array(store.size);
  /** What stands below one holder comes together. */
  let last = { holder: -1, from: begun };
  for (const slot of store.inOrder()) {
    const join = joins[columns.source[slot] as number] as PathsOf;
    const holder = columns.parent[slot] as number;
    if (columns.below[slot] === 0) {
      const pieces = store.keyOf(slot).split(BETWEEN);
      const shown = join.topHidden && pieces.length > 1 ? pieces.slice(1) : pieces;
      led[slot] = reading.over(begun, shown.join(join.separator));
    } else {
      if (last.holder !== holder) {
        const isTop = join.topHidden && !store.keyOf(holder).includes(BETWEEN);
        last = { holder, from: isTop ? begun : reading.over(led[holder] as number, join.separator) };
      }
      led[slot] = reading.overName(last.from, columns.name[slot] as number);
    }
    if (reading.ends(led[slot] as number)) bits.add(slot);
  }
}

/** Whether a key is that of what holds it and the name. */
export const isBelow = (key: string, above: string, name: string): boolean =>
  key.length === above.length + 1 + name.length &&
  key.startsWith(BETWEEN, above.length) &&
  key.startsWith(above) &&
  key.endsWith(name);
