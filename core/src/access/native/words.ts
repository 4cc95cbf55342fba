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

/** By what right a login reads, as part of a sentence: `by a right of reporting, of which it is a member`. */
export function rightBySentence({
  how,
  holder,
  through,
  login,
}: Omit<Right, 'schema'> & {
  readonly login: string;
}): string {
  if (how === 'grant' && holder === '') return 'since everybody may';
  const member = login === holder ? null : `${holder}, of which it is a member`;
  if (how === 'grant') return `by a right of ${member ?? 'its own'}`;
  if (how === 'owner') return member ? `since the owner is ${member}` : 'as the owner';
  if (how === 'superuser') return member ? `since it can become the superuser ${holder}` : 'as a superuser';
  return member ? `by ${through}, through ${member}` : `by ${through}, of which it is a member`;
}
