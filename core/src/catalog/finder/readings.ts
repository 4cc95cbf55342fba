import { fold, nameWords, slipsOf } from '../../text/index.ts';
import { wantedWords } from '../facts.ts';
import type { Filter } from '../filter.ts';
import type { Bits } from './bits.ts';
import type { Conditions } from './conditions.ts';
import type { Reading } from './ranking.ts';
import type { Store } from './store.ts';
import { LONGEST_LABEL } from './synonyms.ts';

/** What another form of a word is worth beside the word itself, and one that a slip of the finger may have hidden. */
/** What the glossary calls the same is worth less than the word itself in a text: what is there as it was asked for comes first. */
const WORTH = { form: 0.85, slip: 0.7, other: 0.28 } as const;
/** Shorter words of other names are abbreviations, and meant as they are. */
const BEGINS_FROM = 5;
/** So many other forms of a word are looked for, and so many ways to mend a slip tried. */
const FORMS = 6;
const NEAR = 4;
const TRIED = 16;

type Word = Extract<Filter, { type: 'word' }>;

/** A filter as it is understood, and for each word in it the ways to read it. */
export interface Read {
  readonly filter: Filter;
  readonly asked: readonly (readonly Reading[])[];
  /** Paths that were asked for as they are pasted, with those of what they lead to: `booking.passenger`. */
  readonly places: readonly string[];
}

/** Reads the words of a filter as whoever typed them may have meant them. Nothing is told of words that stand only where the person may not look. */
export class Readings {
  readonly #store: Store;
  readonly #conditions: Conditions;
  readonly #visible: Bits;

  constructor(store: Store, conditions: Conditions, visible: Bits) {
    this.#store = store;
    this.#conditions = conditions;
    this.#visible = visible;
  }

  /**
   * With other forms of the words, and with what the glossary calls the same: `bookings` finds what is called `booking` too, and `guest` what is called
   * `passenger` where both are labels of a term. Words in quotation marks stay as they are.
   */
  withForms(filter: Filter): Read {
    const asked: (readonly Reading[])[] = [];
    const places: string[] = [];
    return { filter: this.#withForms(filter, asked, places), asked, places };
  }

  #withForms(filter: Filter, asked: (readonly Reading[])[], places: string[]): Filter {
    if (filter.type === 'any') {
      const of = filter.of.map((part) => this.#withForms(part, asked, places));
      return isSame(of, filter.of) ? filter : { type: 'any', of };
    }
    if (filter.type !== 'all' && filter.type !== 'word') return filter;
    const parts: Filter[] = [];
    /** Words that stand beside each other, to be read together: a name may have several. */
    let run: Word[] = [];
    const endRun = () => {
      const named = this.#pathsOf(run.map(({ text }) => text));
      places.push(...named);
      const read = run.length > 0 ? this.#readRun(run, asked) : [];
      parts.push(...(named.length > 0 ? [{ type: 'any' as const, of: [allOf(read), asPlace(named)] }] : read));
      run = [];
    };
    for (const part of filter.type === 'all' ? filter.of : [filter]) {
      const named = part.type === 'word' && !part.whole ? placesIn(part.text) : [];
      if (part.type === 'word' && named.length > 0) {
        endRun();
        places.push(...named);
        parts.push({ type: 'any', of: [allOf(this.#readRun([part], asked)), asPlace(named)] });
      } else if (part.type === 'word' && !part.whole) run.push(part);
      else {
        endRun();
        if (part.type === 'word') for (const text of wantedWords(part.text)) asked.push([asTyped(text, true)]);
        parts.push(part.type === 'word' ? part : this.#withForms(part, asked, places));
      }
    }
    endRun();
    return isSame(parts, filter.type === 'all' ? filter.of : [filter]) ? filter : allOf(parts);
  }

  /**
   * Paths that two or three names may be that are typed with spaces between, where something that may be seen is called so and lies in what is: `ref port`. Of two
   * either may be what holds the other, wherever that lies: `email passenger` for a column.
   */
  #pathsOf(names: readonly string[]): string[] {
    const [one, other, ...more] = names;
    if (one === undefined || other === undefined || more.length > 1) return [];
    if (more.length === 1) {
      const isPath = names.some((name, at) => at > 0 && this.#isHeld(name, names[at - 1] as string));
      return isPath ? placesIn(names.join('.')) : [];
    }
    return [
      ...(this.#isHeld(other, one) ? [`${one}.${other}`, `*.${one}.${other}`] : []),
      ...(this.#isHeld(one, other) ? [`${other}.${one}`, `*.${other}.${one}`] : []),
    ];
  }

  /** Whether something that may be seen has a name, and what it lies in has the other one. */
  #isHeld(name: string, holder: string): boolean {
    const { columns, words } = this.#store;
    // Many are called the same: each name is looked at once.
    const calledAs = (text: string) => {
      const [wanted, known] = [fold(text), new Map<number, boolean>()];
      return (slot: number): boolean => {
        const number = columns.name[slot] as number;
        const before = known.get(number);
        if (before !== undefined) return before;
        const called = this.#store.nameOf(slot);
        const is = called.length === wanted.length && fold(called) === wanted;
        known.set(number, is);
        return is;
      };
    };
    const [isHere, isAbove] = [calledAs(name), calledAs(holder)];
    for (const number of words.exactly(nameWords(name).at(-1) ?? '')) {
      const { entries, length } = words.postings(number);
      for (let at = 0; at < length; at += 1) {
        const [slot, isOfName] = [(entries[at] as number) >>> 1, (entries[at] as number) & 1];
        const parent = columns.parent[slot] as number;
        if (isOfName && parent >= 0 && isHere(slot) && isAbove(parent) && this.#visible.has(slot)) return true;
      }
    }
    return false;
  }

  /** Reads words beside each other: the longest names among them first. */
  #readRun(run: readonly Word[], asked: (readonly Reading[])[]): Filter[] {
    const texts = run.flatMap((word) => wantedWords(word.text));
    const parts: Filter[] = [];
    for (let at = 0; at < texts.length; ) {
      let length = Math.min(LONGEST_LABEL, texts.length - at);
      let named: readonly (readonly string[])[] = [];
      for (; length > 0; length -= 1) {
        named = this.#namesOf(texts.slice(at, at + length));
        if (named.length > 0) break;
      }
      const read = texts.slice(at, at + Math.max(1, length));
      parts.push(this.#readName(read, named, asked));
      at += read.length;
    }
    const together = this.#runTogether(texts);
    if (together.length > 0) {
      for (let at = asked.length - texts.length; at < asked.length; at += 1)
        asked[at] = [...(asked[at] as readonly Reading[]), ...together];
      return [{ type: 'any', of: [allOf(parts), ...together.map(asWord)] }];
    }
    // What is read as it was typed stays written as it was: `booking_leg`.
    return parts.every((part) => part.type === 'word') ? [...run] : parts;
  }

  /** Names in which the words stand together, shortened: `TBLPAXEML` for passenger and email. */
  #runTogether(texts: readonly string[]): Reading[] {
    const { synonyms, words } = this.#store;
    if (texts.length < 2) return [];
    const called = texts.map((text) => [
      text,
      ...synonyms.othersOf([text]).flatMap((other) => (other.length === 1 ? other : [])),
    ]);
    return words
      .runTogether(called)
      .filter((number) => this.#isSeen([number]))
      .map((number) => ({ word: words.wordOf(number), whole: true, worth: WORTH.other }));
  }

  #readName(read: readonly string[], named: readonly (readonly string[])[], asked: (readonly Reading[])[]): Filter {
    const others = named.map((words) => words.map((word) => this.#otherName(word)));
    const instead = others.flat(2);
    const own = read.map((text) => {
      const readings = [asTyped(text, false), ...this.#forms(text)];
      asked.push([...readings, ...instead]);
      return alternatives(readings);
    });
    if (others.length === 0) return allOf(own);
    return { type: 'any', of: [allOf(own), ...others.map((words) => allOf(words.map(alternatives)))] };
  }

  /** Other names of what is called so, or in another form of the last word so: `guests`. */
  #namesOf(texts: readonly string[]): readonly (readonly string[])[] {
    const { synonyms, words } = this.#store;
    const found = synonyms.othersOf(texts);
    if (found.length > 0) return found;
    const last = texts.at(-1) ?? '';
    for (const number of words.forms(last, 'english')) {
      const others = synonyms.othersOf([...texts.slice(0, -1), words.wordOf(number)]);
      if (others.length > 0) return others;
    }
    return [];
  }

  /** A word of another name: as it is and in its forms; a longer one also where it only begins so. */
  #otherName(text: string): readonly Reading[] {
    return [
      { word: text, whole: text.length < BEGINS_FROM, worth: WORTH.other },
      ...this.#forms(text).map((reading) => ({ ...reading, worth: WORTH.other })),
    ];
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

  /** Whether one of the words stands in a label of a term. */
  namesTerms(filter: Filter): boolean {
    const { words, synonyms } = this.#store;
    return wordsOf(filter).some(({ text }) =>
      wantedWords(text).some((word) => words.exactly(word).some((number) => synonyms.termsWith(number))),
    );
  }

  #exchanged(filter: Filter, instead: ReadonlyMap<string, string>): Read {
    const asked: (readonly Reading[])[] = [];
    const changed = eachWord(filter, (word) => {
      if (word.whole) {
        for (const text of wantedWords(word.text)) asked.push([asTyped(text, true)]);
        return word;
      }
      const parts = wantedWords(word.text).map((text): Filter => {
        const mend = instead.get(text);
        asked.push([{ word: mend ?? text, whole: false, worth: mend ? WORTH.slip : 1 }]);
        return { type: 'word', text: mend ?? text, whole: false };
      });
      return allOf(parts);
    });
    return { filter: changed, asked, places: [] };
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
    const { words, synonyms } = this.#store;
    return words
      .near(text)
      .filter(({ number }) => synonyms.termsWith(number) || this.#isSeen([number]))
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
      return this.#conditions.carriers(number)?.and(this.#visible).some() ?? false;
    });
  }
}

/**
 * Paths that a word may be, as people paste them from a statement: as it stands; of three names or more also without the first, which may be the database, and
 * without the last, which may be a column.
 */
function placesIn(text: string): string[] {
  const names = text.split('.');
  if (names.length < 2 || names.some((name) => name === '')) return [];
  return names.length === 2 ? [text] : [text, names.slice(1).join('.'), names.slice(0, -1).join('.')];
}
/** What stands at one of some paths. */
export const asPlace = (places: readonly string[]): Filter => ({
  type: 'is',
  key: 'path',
  comparison: '=',
  values: [...places],
});

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

/** Whether nothing was read otherwise than it stands. */
const isSame = (parts: readonly Filter[], of: readonly Filter[]): boolean =>
  parts.length === of.length && parts.every((part, at) => part === of[at]);

const asTyped = (word: string, whole: boolean): Reading => ({ word, whole, worth: 1 });

const allOf = (parts: readonly Filter[]): Filter =>
  parts.length === 1 && parts[0] ? parts[0] : { type: 'all', of: parts };

const asWord = ({ word, whole }: Reading): Filter => ({ type: 'word', text: word, whole });

function alternatives(readings: readonly Reading[]): Filter {
  const of = readings.map(asWord);
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
