import inLatin from 'any-ascii';
import { fold } from './fold.ts';

const LATIN = /^\p{ASCII}*$/u;
const OTHER = /\P{ASCII}/u;
/** Longer words than this are no names. */
const LONGEST = 60;

/** The ways in which a folded word is looked for: as it is, and where it is of another script also in Latin letters (`кунде` → `kunde`). */
export function romanised(word: string): readonly string[] {
  if (LATIN.test(word) || word.length > LONGEST) return [word];
  const latin = fold(inLatin(word)).replace(/[^\p{L}\p{N}]/gu, '');
  return latin === '' || latin === word || OTHER.test(latin) ? [word] : [word, latin];
}
