import type { Database, Db } from '../platform/database.ts';
import { ApiProblem } from '../platform/problems.ts';
import { digest } from '../platform/secrets.ts';

/** So many wrong tries in a row are looked at without waiting. */
const FREE = 5;
const LONGEST = 3600;

/** How long no try is looked at after so many wrong ones in a row, in seconds: one minute, then twice as long each time, at most an hour. */
export const holdFor = (wrong: number): number => (wrong < FREE ? 0 : Math.min(LONGEST, 60 * 2 ** (wrong - FREE)));

/**
 * What tries are counted by: the address that was given, whether it is anybody's or not, and the browser where it is one in which that person signed in
 * before. So strangers who try do not keep the person out, who comes from a browser of theirs (the device cookies that OWASP describes).
 * @param browser digest of the browser's own token
 */
const keyOf = (email: string, browser: Buffer | null): Buffer =>
  digest(`${email.toLowerCase()}\n${browser?.toString('hex') ?? ''}`);

interface Tried {
  wrong: number;
  held: number | null;
  past: boolean;
}

/**
 * Does one try, which counts as a wrong one until it turns out to be right: so many at once are no more than one after the other.
 * @returns what the try gives; undefined: it was a wrong one
 * @throws 429 while none is looked at
 */
export async function countedTry<T>(
  db: Database,
  email: string,
  browser: Buffer | null,
  attempt: () => Promise<T | undefined>,
): Promise<T | undefined> {
  const key = keyOf(email, browser);
  await db.transaction(async (tx) => {
    await tx.run('insert into sign_in_try (key) values ($1) on conflict do nothing', [key]);
    const tried = await tx.one<Tried>(
      `
        select
          wrong,
          case when held_until > now() then ceil(extract(epoch from held_until - now()))::int end as held,
          tried_at < now() - interval '1 day' as past
        from sign_in_try
        where key = $1
        for update`,
      [key],
    );
    if (tried?.held) throw heldBack(tried.held);
    const wrong = (tried && !tried.past ? tried.wrong : 0) + 1;
    await tx.run(
      "update sign_in_try set wrong = $2, tried_at = now(), held_until = now() + $3 * interval '1 second' where key = $1",
      [key, wrong, holdFor(wrong)],
    );
  });
  const given = await attempt();
  if (given !== undefined) await db.run('delete from sign_in_try where key = $1', [key]);
  return given;
}

function heldBack(seconds: number): ApiProblem {
  const wait = seconds < 60 ? 'a minute' : `${Math.ceil(seconds / 60)} minutes`;
  return new ApiProblem(
    'too-many-tries',
    'There were too many wrong tries in a row, so none is looked at for a while.',
    {
      mend: `Wait ${wait}, or have a link sent to set a new password.`,
    },
  );
}

/** Lets a person try again at once, wherever they are. */
export async function forgetTries(tx: Db, personId: string, email: string): Promise<void> {
  const browsers = await tx.rows<{ token_hash: Buffer }>('select token_hash from known_browser where person_id = $1', [
    personId,
  ]);
  const keys = [keyOf(email, null), ...browsers.map(({ token_hash }) => keyOf(email, token_hash))];
  await tx.run('delete from sign_in_try where key = any($1::bytea[])', [keys]);
}

/** Forgets what was tried long ago, links that have ended, and browsers that were not seen for half a year. */
export async function forgetSignIns(db: Db): Promise<void> {
  await db.run("delete from sign_in_try where tried_at < now() - interval '2 days'");
  await db.run("delete from password_link where expires_at < now() - interval '2 days'");
  await db.run("delete from known_browser where seen_at < now() - interval '180 days'");
}
