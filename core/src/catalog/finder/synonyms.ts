import { nameWords } from '../../text/index.ts';
import { searchWords } from '../facts.ts';
import { put } from './books.ts';
import type { TermNames } from './store.ts';
import type { WordBook } from './wordBook.ts';

/** Labels of more words than this are no names that somebody searches by. */
const MOST_WORDS = 4;
/** So many other names of what was asked for are looked for. */
const MOST = 12;

/** Labels of terms: which terms have a word among them, and by which other words the same is called. */
export class Synonyms {
  /** Ids of the terms that have a word, by the word's number. */
  readonly #termsByWord = new Map<number, Set<string>>();
  /** Ids of the terms that are called so, by the words of the label with spaces between. */
  readonly #termsByLabel = new Map<string, Set<string>>();
  readonly #labels = new Map<string, readonly string[]>();

  constructor(terms: ReadonlyMap<string, TermNames>, words: WordBook) {
    for (const [id, { labels }] of terms) {
      for (const word of searchWords(labels, []).names) put(this.#termsByWord, words.numberOf(word), id);
      const phrases = [...new Set(labels.flatMap(phrasesOf))];
      this.#labels.set(id, phrases);
      for (const phrase of phrases) put(this.#termsByLabel, phrase, id);
    }
  }

  /** Ids of the terms with a word in one of their labels. */
  termsWith(word: number): ReadonlySet<string> | undefined {
    return this.#termsByWord.get(word);
  }

  /** Other names of what these words are a name of, each as its words. */
  othersOf(words: readonly string[]): readonly (readonly string[])[] {
    const asked = words.join(' ');
    const found = new Set<string>();
    for (const id of this.#termsByLabel.get(asked) ?? [])
      for (const phrase of this.#labels.get(id) ?? []) if (phrase !== asked && found.size < MOST) found.add(phrase);
    return [...found].map((phrase) => phrase.split(' '));
  }
}

/** A label as its words; one that is written together otherwise (`E-mail`) also as the one word that names make of it. */
function phrasesOf(label: string): string[] {
  const words = nameWords(label);
  if (words.length === 0 || words.length > MOST_WORDS) return [];
  return words.length > 1 && !/\s/.test(label.trim()) ? [words.join(' '), words.join('')] : [words.join(' ')];
}

export { MOST_WORDS as LONGEST_LABEL };
