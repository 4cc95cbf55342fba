import type { Database, Db } from '../platform/database.ts';
import { ApiProblem, invalid } from '../platform/problems.ts';
import { hashPassword, passwordMatches } from '../platform/secrets.ts';
import { recordOfPerson } from './ofPerson.ts';
import { countedTry, forgetTries } from './tries.ts';

export interface Knows {
  readonly id: string;
  readonly name: string;
  readonly email: string;
}

/** Sets a password, told in the journal by whoever does it: the person themselves. @throws 422 when it is not good enough */
export async function setPassword(tx: Db, person: Knows, password: string): Promise<void> {
  // The words that are tried first are loaded when somebody chooses a password: few servers ever need them.
  const { judgePassword } = await import('./judgePassword.ts');
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
