import { nameWords } from '../text/index.ts';
import type { NameVerdict } from './types.ts';

/** Phrases taken apart once: a list of them is asked for every column there is. */
interface Phrases {
  /** Phrases of one word, and the others written as one. */
  readonly single: ReadonlySet<string>;
  /** Phrases of several words, by the first of them. */
  readonly several: ReadonlyMap<string, readonly (readonly string[])[]>;
  /** Names that must be a phrase as a whole. */
  readonly whole: ReadonlySet<string>;
}
const taken = new WeakMap<readonly string[], Phrases>();

function takeApart(phrases: readonly string[]): Phrases {
  const known = taken.get(phrases);
  if (known) return known;
  const several = new Map<string, string[][]>();
  const single = new Set<string>();
  const whole = new Set<string>();
  for (const phrase of phrases) {
    if (phrase.startsWith('=')) {
      whole.add(phrase.slice(1));
      continue;
    }
    const parts = phrase.split(' ');
    single.add(parts.join(''));
    const [first = ''] = parts;
    if (parts.length > 1) several.set(first, [...(several.get(first) ?? []), parts]);
  }
  const made = { single, several, whole };
  taken.set(phrases, made);
  return made;
}

/** The phrases that stand in a name, their words next to each other or written as one (`e mail` finds `email`). */
function standing(words: readonly string[], phrases: readonly string[]): string[] {
  const { single, several, whole } = takeApart(phrases);
  const found = new Set<string>();
  for (const [start, word] of words.entries()) {
    if (single.has(word)) found.add(word);
    for (const parts of several.get(word) ?? [])
      if (parts.every((part, offset) => words[start + offset] === part)) found.add(parts.join(' '));
  }
  if (whole.size > 0 && whole.has(words.join(' '))) found.add(words.join(' '));
  return [...found];
}

/**
 * What a column's name says about a class.
 * Words against it outweigh words for it: `email_template_id` holds no addresses. What begins with `=` must be the whole name: `=date` speaks of `date` alone.
 */
export function readColumnName(
  name: string,
  namesFor: readonly string[],
  namesAgainst: readonly string[],
): { verdict: NameVerdict; words: string[] } {
  const words = nameWords(name);
  const against = standing(words, namesAgainst);
  if (against.length > 0) return { verdict: 'disagrees', words: against };
  const speaking = standing(words, namesFor);
  return { verdict: speaking.length > 0 ? 'agrees' : 'neutral', words: speaking };
}

/** A column called `name`, and nothing more, may hold names of anything: only that it holds names is said. */
export const isBareName = (words: readonly string[]): boolean =>
  words.length > 0 && words.every((word) => word === 'name' || word === 'names');
