import { fold } from './fold.ts';

export { joined, neutral, parted, plain } from './cells.ts';
export { fold } from './fold.ts';
export { keepable, keepableName, keepableWithin, NAME_MOST } from './keepable.ts';
export { nearest } from './nearest.ts';
export { romanised } from './romanised.ts';
export { isRunTogether, isShortFor } from './seams.ts';
export { onOneLine, shortened } from './shortened.ts';
export { near, slipsOf } from './slips.ts';

/** Names of columns come again and again; a name that was read lately is not read anew. */
const lately = new Map<string, readonly string[]>();
const LATELY_MOST = 5000;
const LATELY_LENGTH = 63;

/** Longer words are found by their beginning: no index takes words of any length. */
const LONGEST_WORD = 200;

/** The words of a technical name: `passengerEMail_2` → passenger, e, mail, 2. */
export function nameWords(name: string): readonly string[] {
  const known = lately.get(name);
  if (known) return known;
  const words = readWords(name);
  if (name.length <= LATELY_LENGTH) {
    if (lately.size >= LATELY_MOST) lately.clear();
    lately.set(name, words);
  }
  return words;
}

function readWords(name: string): string[] {
  return fold(
    name
      .replace(/(\p{Ll}|\p{N})(\p{Lu})/gu, '$1 $2')
      .replace(/(\p{Lu}+)(\p{Lu}\p{Ll})/gu, '$1 $2')
      .replace(/(\p{L})(\p{N})/gu, '$1 $2'),
  )
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
    .map(cutWord);
}

export const cutWord = (word: string): string =>
  word.length > LONGEST_WORD ? word.slice(0, LONGEST_WORD).replace(/[\uD800-\uDBFF]$/, '') : word;
