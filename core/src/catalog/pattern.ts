import { fold } from '../text/index.ts';

/**
 * Whether a text is what a pattern says: the same, however it is written, with `*` for anything. It takes time in the product of both lengths at most,
 * whatever the pattern.
 */
export function fits(pattern: string, text: string): boolean {
  const [wanted, told] = [fold(pattern), fold(text)];
  let [at, place] = [0, 0];
  let [star, behind] = [-1, 0];
  while (place < told.length) {
    if (wanted[at] === '*') {
      star = at;
      behind = place;
      at += 1;
    } else if (at < wanted.length && wanted[at] === told[place]) {
      at += 1;
      place += 1;
    } else if (star >= 0) {
      // The last star takes one letter more.
      behind += 1;
      place = behind;
      at = star + 1;
    } else return false;
  }
  while (wanted[at] === '*') at += 1;
  return at === wanted.length;
}

/** The same as a pattern of SQL's LIKE, over folded texts. */
export const likePattern = (pattern: string): string =>
  fold(pattern)
    .replace(/[\\%_]/g, '\\$&')
    .replaceAll('*', '%');
