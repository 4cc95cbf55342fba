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

/** Whether a pattern may be one of a path: names alone are known by having no joint. */
export const isOfPaths = (pattern: string): boolean => /[./]/.test(pattern);

/** Whether something is called so: by its name, or where the pattern holds a joint of paths by its path. */
export const isCalled = (pattern: string, { name, path }: Called): boolean =>
  fits(pattern, name) || (isOfPaths(pattern) && fits(pattern, path));
/** What something is called: its name, and its names from the top on as lists join them. */
export interface Called {
  readonly name: string;
  readonly path: string;
}

/** The same as a pattern of SQL's LIKE, over folded texts. */
export const likePattern = (pattern: string): string =>
  fold(pattern)
    .replace(/[\\%_]/g, '\\$&')
    .replaceAll('*', '%');
