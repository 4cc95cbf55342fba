import type { NativeHow } from './types.ts';

interface Right {
  readonly how: NativeHow;
  /** Empty: everybody who can come in. */
  readonly holder: string;
  readonly through: string | null;
  readonly schema: string | null;
}

/** Who holds a right, in words. */
export const holderInWords = (holder: string): string => (holder === '' ? 'everybody' : holder);

/** What is said after the name of who holds a right: `by a right in mart`. */
export function standingInWords({ how, through, schema }: Omit<Right, 'holder'>): string {
  if (how === 'superuser') return 'a superuser';
  if (how === 'reads all') return `who reads everything as a member of ${through}`;
  return how === 'owner' ? `the owner in ${schema}` : `by a right in ${schema}`;
}

/** A right at a source in words, as part of a sentence: `everybody, by a right in mart`. */
export const rightInWords = (right: Right): string => `${holderInWords(right.holder)}, ${standingInWords(right)}`;

/** How a login comes to a right: `maud, of reporting_all`; the login alone where it holds the right itself, or everybody does. */
export const chainInWords = (chain: readonly string[]): string => {
  const [login = '', ...others] = chain;
  return others.length === 0 ? login : `${login}, of ${others.join(', of ')}`;
};
