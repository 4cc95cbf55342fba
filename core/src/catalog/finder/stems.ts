import { stemmer as english } from '@orama/stemmers/english';
import { stemmer as german } from '@orama/stemmers/german';

/** Languages whose endings are known, the one that most names are written in first. */
export const LANGUAGES = ['english', 'german'] as const;
export type Language = (typeof LANGUAGES)[number];

const STEMMERS: Record<Language, (word: string) => string> = { english, german };
const LETTERS = /^\p{L}{3,40}$/u;

/** What is left of a word without its endings (Porter, "An algorithm for suffix stripping", 1980; Snowball's for German); undefined where it is no word. */
export const stemOf = (word: string, language: Language): string | undefined =>
  LETTERS.test(word) ? STEMMERS[language](word) : undefined;
