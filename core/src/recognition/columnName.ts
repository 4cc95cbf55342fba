import { nameWords } from '../text/index.ts';
import type { NameVerdict } from './types.ts';

/** The phrase as it stands in the name, its words next to each other or written as one (`e mail` finds `email`). */
function stands(words: readonly string[], phrase: string): string | undefined {
  const parts = phrase.split(' ');
  const joined = parts.join('');
  if (words.includes(joined)) return joined;
  return words.some((_, start) => parts.every((part, offset) => words[start + offset] === part)) ? phrase : undefined;
}

/**
 * What a column's name says about a class.
 * Words against it outweigh words for it: `email_template_id` holds no addresses. What begins with `=` must be the whole name: `=date` speaks of `date` alone.
 */
export function readColumnName(name: string, namesFor: readonly string[], namesAgainst: readonly string[]): { verdict: NameVerdict; words: string[] } {
  const words = nameWords(name);
  const found = (phrases: readonly string[]) => [...new Set(phrases.flatMap((phrase) => stands(words, phrase) ?? []))];
  const whole = `=${words.join(' ')}`;
  const against = namesAgainst.includes(whole) ? [whole.slice(1)] : found(namesAgainst);
  if (against.length > 0) return { verdict: 'disagrees', words: against };
  const speaking = found(namesFor);
  return { verdict: speaking.length > 0 ? 'agrees' : 'neutral', words: speaking };
}
