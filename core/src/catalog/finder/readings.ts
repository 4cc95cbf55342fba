import { slipsOf } from '../../text/index.ts';
import { wantedWords } from '../facts.ts';
import type { Filter } from '../filter.ts';
import type { Bits } from './bits.ts';
import type { Reading } from './ranking.ts';
import type { Store } from './store.ts';

/** What another form of a word is worth beside the word itself, and one that a slip of the finger may have hidden. */
const WORTH = { form: 0.85, slip: 0.7 } as const;
/** So many other forms of a word are looked for, and so many ways to mend a slip tried. */
const FORMS = 6;
const NEAR = 4;
const TRIED = 16;

type Word = Extract<Filter, { type: 'word' }>;

/** A filter as it is understood, and for each word in it the ways to read it. */
export interface Read {
  readonly filter: Filter;
  readonly asked: readonly (readonly Reading[])[];
}

/** Reads the words of a filter as whoever typed them may have meant them. Nothing is told of words that stand only where the person may not look. */
export class Readings {
  readonly #store: Store;
  readonly #visible: Bits;

  constructor(store: Store, visible: Bits) {
    this.#store = store;
    this.#visible = visible;
  }

  /** With other forms of the words: `bookings` finds what is called `booking` too. Words in quotation marks stay as they are. */
  withForms(filter: Filter): Read {
    const asked: (readonly Reading[])[] = [];
    const changed = eachWord(filter, (word) => {
      if (word.whole) {
        for (const text of wantedWords(word.text)) asked.push([{ word: text, whole: true, worth: 1 }]);
        return word;
      }
      const parts = wantedWords(word.text).map((text) => {
        const readings = [{ word: text, whole: false, worth: 1 }, ...this.#forms(text)];
        asked.push(readings);
        return alternatives(readings);
      });
      return parts.every((part) => part.type === 'word') ? word : together(parts);
    });
    return { filter: changed, asked };
  }

  /**
   * Ways to read a filter by which nothing was found, as if the finger had slipped, the likeliest first: words that are nowhere are mended; where each is
   * somewhere, one of them is.
   */
  *mended(filter: Filter): Iterable<Read> {
    const words = wordsOf(filter).filter((word) => !word.whole);
    const texts = [...new Set(words.flatMap((word) => wantedWords(word.text)))];
    const lost = texts.filter((text) => !this.#isSeen(this.#store.words.beginning(text)));
    // Where words are nowhere, those alone are mended.
    const mends = new Map((lost.length > 0 ? lost : texts).map((text) => [text, this.#mends(text)]));
    if (lost.some((text) => mends.get(text)?.length === 0)) return;
    let tried = 0;
    const choices =
      lost.length > 0
        ? combined(lost.map((text) => (mends.get(text) ?? []).map((mend) => [text, mend] as const)))
        : texts.flatMap((text) => (mends.get(text) ?? []).map((mend) => [[text, mend] as const]));
    for (const choice of choices) {
      if (tried >= TRIED) return;
      tried += 1;
      yield this.#exchanged(filter, new Map(choice));
    }
  }

  #exchanged(filter: Filter, instead: ReadonlyMap<string, string>): Read {
    const asked: (readonly Reading[])[] = [];
    const changed = eachWord(filter, (word) => {
      if (word.whole) {
        for (const text of wantedWords(word.text)) asked.push([{ word: text, whole: true, worth: 1 }]);
        return word;
      }
      const parts = wantedWords(word.text).map((text): Filter => {
        const mend = instead.get(text);
        asked.push([{ word: mend ?? text, whole: false, worth: mend ? WORTH.slip : 1 }]);
        return { type: 'word', text: mend ?? text, whole: false };
      });
      return together(parts);
    });
    return { filter: changed, asked };
  }

  #forms(text: string): Reading[] {
    const { words } = this.#store;
    const seen = (numbers: readonly number[]) =>
      numbers.filter((number) => !words.wordOf(number).startsWith(text) && this.#isSeen([number]));
    const english = seen(words.forms(text, 'english'));
    // Endings of one language cut words of another: they are tried where nothing else is there.
    const other = english.length > 0 || this.#isSeen(words.beginning(text)) ? [] : seen(words.forms(text, 'german'));
    return [...english, ...other]
      .slice(0, FORMS)
      .map((number) => ({ word: words.wordOf(number), whole: true, worth: WORTH.form }));
  }

  #mends(text: string): string[] {
    if (slipsOf(text) === 0) return [];
    const { words } = this.#store;
    return words
      .near(text)
      .filter(({ number }) => this.#isSeen([number]))
      .map(({ number, distance }) => ({
        word: words.wordOf(number),
        // Of two that are as near, the one that stands in more places is the likelier.
        cost: distance - Math.log10(1 + words.postings(number).length) / 20,
      }))
      .sort((a, b) => a.cost - b.cost)
      .slice(0, NEAR)
      .map(({ word }) => word);
  }

  /** Whether one of the words stands where the person may look. */
  #isSeen(numbers: readonly number[]): boolean {
    const { words } = this.#store;
    return numbers.some((number) => {
      const { entries, length } = words.postings(number);
      for (let at = 0; at < length; at += 1) if (this.#visible.has((entries[at] as number) >>> 1)) return true;
      return false;
    });
  }
}

/** The words that a filter asks for; not those that it excludes. */
export function wordsOf(filter: Filter): Word[] {
  if (filter.type === 'word') return [filter];
  return filter.type === 'all' || filter.type === 'any' ? filter.of.flatMap(wordsOf) : [];
}

function eachWord(filter: Filter, change: (word: Word) => Filter): Filter {
  if (filter.type === 'word') return change(filter);
  if (filter.type === 'all' || filter.type === 'any')
    return { type: filter.type, of: filter.of.map((part) => eachWord(part, change)) };
  return filter;
}

const together = (parts: readonly Filter[]): Filter =>
  parts.length === 1 && parts[0] ? parts[0] : { type: 'all', of: parts };

function alternatives(readings: readonly Reading[]): Filter {
  const of = readings.map(({ word, whole }): Filter => ({ type: 'word', text: word, whole }));
  return of.length === 1 && of[0] ? of[0] : { type: 'any', of };
}

/** Each choice of one of every list, those of the first ones first: the sum of their places grows. */
function combined<T>(lists: readonly (readonly T[])[]): T[][] {
  let all: { choice: T[]; cost: number }[] = [{ choice: [], cost: 0 }];
  for (const list of lists)
    all = all
      .flatMap(({ choice, cost }) => list.map((entry, at) => ({ choice: [...choice, entry], cost: cost + at })))
      .sort((a, b) => a.cost - b.cost)
      .slice(0, TRIED);
  return all.map(({ choice }) => choice);
}
