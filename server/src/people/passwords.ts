import { PASSWORD_LENGTH } from '@idrel/contract/people';
import { ZxcvbnFactory } from '@zxcvbn-ts/core';
import { adjacencyGraphs, dictionary } from '@zxcvbn-ts/language-common';
import type { Database, Db } from '../platform/database.ts';
import { ApiProblem, invalid } from '../platform/problems.ts';
import { hashPassword, passwordMatches } from '../platform/secrets.ts';
import { recordOfPerson } from './ofPerson.ts';
import { countedTry, forgetTries } from './tries.ts';

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

export interface Knows {
  readonly id: string;
  readonly name: string;
  readonly email: string;
}

/** Sets a password, told in the journal by whoever does it: the person themselves. @throws 422 when it is not good enough */
export async function setPassword(tx: Db, person: Knows, password: string): Promise<void> {
  const wrong = judgePassword(password, [person.name, person.email]);
  if (wrong)
    throw invalid(
      `This password ${wrong}.`,
      'Choose another one: four words at random are easy to keep and hard to guess.',
      [{ field: 'password', message: wrong }],
    );
  await tx.run('update person set password_hash = $2 where id = $1', [person.id, await hashPassword(password)]);
  await tx.run('delete from password_link where person_id = $1', [person.id]);
  await forgetTries(tx, person.id, person.email);
  await recordOfPerson(tx, { kind: 'person', id: person.id, name: person.name }, 'set a password', person, null, {
    password: 'a new one',
  });
}

// A digest of a password that nobody has: signing in takes as long for an unknown address as for a known one.
const NOBODY = 'scrypt:AAAAAAAAAAAAAAAAAAAAAA==:AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA=';

/**
 * Who signs in by this address and password.
 * @param browser digest of the token of a browser in which this person signed in before
 * @throws 401; 429 after too many wrong tries
 */
export async function personByPassword(
  db: Database,
  email: string,
  password: string,
  browser: Buffer | null,
): Promise<Knows> {
  const person = await countedTry(db, email, browser, async () => {
    const row = await db.one<Knows & { password_hash: string | null }>(
      'select id, name, email, password_hash from person where lower(email) = lower($1) and left_at is null',
      [email],
    );
    const matches = await passwordMatches(password, row?.password_hash ?? NOBODY);
    return row && matches ? row : undefined;
  });
  if (!person)
    throw new ApiProblem('wrong-sign-in', 'E-mail or password is not right.', {
      mend: 'Check both; the password tells capitals apart.',
    });
  return person;
}
