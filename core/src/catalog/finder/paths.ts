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

/** More than there can be names. */
const NAMES = 2 ** 26;

/**
 * Reads texts against a pattern piece by piece, as its automaton (Thompson 1968): where two texts are at the same places, whatever follows is read once. Paths of
 * a million assets are read in the time of their different names.
 */
class Reading {
  readonly #pattern: string;
  readonly #known = new Map<string, number>();
  readonly #sets: Places[] = [];
  /** Where a name leads from some places, by both numbers. */
  readonly #names = new Map<number, number>();

  constructor(pattern: string) {
    this.#pattern = fold(pattern).replace(/\*+/g, '*');
  }

  /** The number of the places before anything is read. */
  begin(): number {
    return this.#number(this.#closed([0]));
  }

  /** The number of the places after a name, from others. @param number of the name: one that was read from there is not read again */
  overName(places: number, name: string, number: number): number {
    if ((this.#sets[places] as Places).length === 0) return places;
    const both = places * NAMES + number;
    const known = this.#names.get(both);
    if (known !== undefined) return known;
    const led = this.read(places, name);
    this.#names.set(both, led);
    return led;
  }

  /** The number of the places after a text, from others. */
  read(places: number, text: string): number {
    let here = this.#sets[places] as Places;
    const letters = fold(text);
    for (let at = 0; at < letters.length && here.length > 0; at += 1) here = this.#after(here, letters[at] as string);
    return this.#number(here);
  }

  /** Whether a text may end here. */
  ends(places: number): boolean {
    return (this.#sets[places] as Places).at(-1) === this.#pattern.length;
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
    return this.#sets.length - 1;
  }
}

/** Between the names of a key. */
const BETWEEN = '\u001f';

/** Adds the assets whose paths fit a pattern. */
export function addFitting(store: Store, pattern: string, bits: Bits): void {
  const { columns, sources, names } = store;
  const reading = new Reading(pattern);
  const begun = reading.begin();
  const joins = sources.values.map((id) => names.paths.get(id) ?? { separator: '.', topHidden: false });
  /** Of each asset that was passed: where its path leads. */
  const led = new Uint32Array(store.size);
  /** What stands below one holder comes together. */
  let last = { holder: -1, from: begun };
  for (const slot of store.inOrder()) {
    const join = joins[columns.source[slot] as number] as PathsOf;
    const key = store.keyOf(slot);
    const holder = columns.parent[slot] as number;
    const above = holder < 0 ? '' : store.keyOf(holder);
    if (holder < 0 || !(key.charCodeAt(above.length) === 31 && key.startsWith(above))) {
      const pieces = key.split(BETWEEN);
      led[slot] = reading.read(
        begun,
        (join.topHidden && pieces.length > 1 ? pieces.slice(1) : pieces).join(join.separator),
      );
    } else {
      if (last.holder !== holder) {
        const isTop = join.topHidden && !above.includes(BETWEEN);
        last = { holder, from: isTop ? begun : reading.read(led[holder] as number, join.separator) };
      }
      const name = store.nameOf(slot);
      led[slot] =
        key.length === above.length + 1 + name.length && key.endsWith(name)
          ? reading.overName(last.from, name, columns.name[slot] as number)
          : reading.read(last.from, key.slice(above.length + 1).replaceAll(BETWEEN, join.separator));
    }
    if (reading.ends(led[slot] as number)) bits.add(slot);
  }
}
