import { isRunTogether, near } from '../../text/index.ts';
import { LANGUAGES, type Language, stemOf } from './stems.ts';

/** Shorter names are not read as several words; so many are told at most. */
const SEAMLESS_FROM = 6;
const RUNS = 12;

/** Where a word stands: for each asset twice its slot, and one more where the word is of the asset's own name. Ascending. */
export interface Postings {
  entries: Uint32Array;
  length: number;
}

/**
 * All words under which assets are found, each with where it stands. Words that come later are sorted in when somebody next asks for beginnings.
 */
export class WordBook {
  readonly #numbers = new Map<string, number>();
  readonly #words: string[] = [];
  readonly #postings: Postings[] = [];
  readonly #stems = { english: new Map<string, number[]>(), german: new Map<string, number[]>() } satisfies Record<
    Language,
    object
  >;
  /** Words that are a whole name, as some write them without any seam: `TBLPAXEML`. */
  readonly #seamless = new Set<number>();
  #sorted: number[] = [];
  #waiting: number[] = [];
  /** Entries that come and go within one change of many assets are written together. */
  #changes = new Map<number, { come: number[]; go: Set<number> }>();

  numberOf(word: string): number {
    const known = this.#numbers.get(word);
    if (known !== undefined) return known;
    const number = this.#words.length;
    this.#numbers.set(word, number);
    this.#words.push(word);
    this.#postings.push({ entries: new Uint32Array(2), length: 0 });
    this.#waiting.push(number);
    for (const language of LANGUAGES) {
      const stem = stemOf(word, language);
      if (stem === undefined) continue;
      const same = this.#stems[language].get(stem);
      if (same) same.push(number);
      else this.#stems[language].set(stem, [number]);
    }
    return number;
  }

  wordOf(number: number): string {
    return this.#words[number] ?? '';
  }

  postings(number: number): Postings {
    this.#settle();
    return this.#postings[number] as Postings;
  }

  /** An asset has the word. What is said comes into force with the next question. */
  come(number: number, entry: number): void {
    const list = this.#postings[number] as Postings;
    const change = this.#changes.get(number);
    // Assets that are new have the highest slots: their entries are put at the end.
    if (!change && (list.length === 0 || (list.entries[list.length - 1] as number) < entry)) {
      push(list, entry);
      return;
    }
    const { come, go } = change ?? this.#change(number);
    if (!go.delete(entry)) come.push(entry);
  }

  go(number: number, entry: number): void {
    const { come, go } = this.#changes.get(number) ?? this.#change(number);
    const at = come.indexOf(entry);
    if (at >= 0) come.splice(at, 1);
    else go.add(entry);
  }

  #change(number: number) {
    const change = { come: [] as number[], go: new Set<number>() };
    this.#changes.set(number, change);
    return change;
  }

  #settle(): void {
    if (this.#changes.size === 0) return;
    for (const [number, { come, go }] of this.#changes) {
      const list = this.#postings[number] as Postings;
      const kept =
        go.size === 0
          ? list.entries.subarray(0, list.length)
          : list.entries.subarray(0, list.length).filter((entry) => !go.has(entry));
      const entries = new Uint32Array(kept.length + come.length);
      entries.set(kept);
      entries.set(come, kept.length);
      if (come.length > 0) entries.sort();
      this.#postings[number] = { entries, length: entries.length };
    }
    this.#changes.clear();
  }

  /** Numbers of the words that begin so, in their order. */
  beginning(prefix: string): readonly number[] {
    const sorted = this.#inOrder();
    const from = this.#firstFrom(prefix);
    let to = from;
    while (to < sorted.length && this.wordOf(sorted[to] as number).startsWith(prefix)) to += 1;
    return sorted.slice(from, to);
  }

  /** The word itself, where it is one. */
  exactly(word: string): readonly number[] {
    const number = this.#numbers.get(word);
    return number === undefined ? [] : [number];
  }

  /** Words that are another form of this one in a language: singular, plural, a verb's endings. */
  forms(word: string, language: Language): readonly number[] {
    const same = this.#stems[language].get(stemOf(word, language) ?? '') ?? [];
    return same.filter((number) => this.wordOf(number) !== word);
  }

  /** Words that differ from this one by a slip of the finger or two, the nearest first. */
  near(word: string): { number: number; distance: number }[] {
    const sorted = this.#inOrder();
    return near(word, sorted.length, (at) => this.wordOf(sorted[at] as number)).map(({ at, distance }) => ({
      number: sorted[at] as number,
      distance,
    }));
  }

  /** The word is a whole name, in which words may stand together. */
  isWholeName(number: number): void {
    if (this.wordOf(number).length >= SEAMLESS_FROM) this.#seamless.add(number);
  }

  /** Names that are made of abbreviations of some words, without a seam between them; each word may be called otherwise. */
  runTogether(words: readonly (readonly string[])[]): number[] {
    const found: number[] = [];
    for (const number of this.#seamless)
      if (found.length < RUNS && isRunTogether(this.wordOf(number), words)) found.push(number);
    return found;
  }

  #inOrder(): readonly number[] {
    if (this.#waiting.length === 0) return this.#sorted;
    const byWord = (a: number, b: number) => (this.wordOf(a) < this.wordOf(b) ? -1 : 1);
    const coming = this.#waiting.sort(byWord);
    this.#waiting = [];
    if (this.#sorted.length === 0) this.#sorted = coming;
    else {
      const merged: number[] = [];
      let at = 0;
      for (const number of this.#sorted) {
        while (at < coming.length && byWord(coming[at] as number, number) < 0) merged.push(coming[at++] as number);
        merged.push(number);
      }
      this.#sorted = merged.concat(coming.slice(at));
    }
    return this.#sorted;
  }

  #firstFrom(prefix: string): number {
    let [low, high] = [0, this.#sorted.length];
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.wordOf(this.#sorted[middle] as number) < prefix) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}

function push(list: Postings, entry: number): void {
  if (list.length === list.entries.length) {
    const more = new Uint32Array(Math.max(2, list.length * 2));
    more.set(list.entries);
    list.entries = more;
  }
  list.entries[list.length] = entry;
  list.length += 1;
}
