import { PASSWORD_LENGTH } from '@idrel/contract/people';
import { ZxcvbnFactory } from '@zxcvbn-ts/core';
import { adjacencyGraphs, dictionary } from '@zxcvbn-ts/language-common';

const guesses = new ZxcvbnFactory({ dictionary, graphs: adjacencyGraphs });
/** From 0 (a few guesses) to 4; 3 takes a hundred million of them, 4 ten thousand million. */
const LEAST_SCORE = 3;
const LEAST_OF_KNOWN = 4;
/** So much of it is judged: what comes behind makes it no weaker, and long ones take long. */
const JUDGED = 64;

/**
 * What is wrong with a password, or undefined: how long it is, and how soon somebody would guess it who knows the person and the passwords that are tried first.
 * No kinds of characters are asked for (NIST SP 800-63B).
 * @param known words that somebody who tries would try: name, address
 */
export function judgePassword(password: string, known: readonly string[]): string | undefined {
  const { least, most } = PASSWORD_LENGTH;
  if ([...password].length < least) return `must be at least ${least} characters long`;
  if (password.length > most) return `must be at most ${most} characters long`;
  const words = ['idrel', ...known.flatMap((word) => [word, ...word.split(/[^\p{L}\p{N}]+/u)])].filter(
    (word) => word.length > 2,
  );
  const { score, sequence } = guesses.check(password.slice(0, JUDGED), words);
  const from = new Set(sequence.map((match) => ('dictionaryName' in match ? String(match.dictionaryName) : '')));
  if (score >= (from.has('userInputs') ? LEAST_OF_KNOWN : LEAST_SCORE)) return undefined;
  if (from.has('userInputs')) return 'is made from what is known of you: your name, your address, or Idrel';
  if (from.has('passwords-common')) return 'is among the passwords that are tried first';
  return 'is guessed soon: make it longer, or of words that do not belong together';
}
