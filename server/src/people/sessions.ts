import type { OpenSession as ListedSession } from '@idrel/contract/people';
import Bowser from 'bowser';
import { parse, serialize } from 'cookie';
import type { NextFunction, Request, Response } from 'express';
import { record } from '../journal/index.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { ApiProblem, notFound } from '../platform/problems.ts';
import { digest, newToken } from '../platform/secrets.ts';
import { TELL } from '../platform/signals.ts';
import { loadWho, type Who, whoInSession } from './who.ts';

const COOKIE = 'idrel_session';
/** Says that somebody signed in by password in this browser before; it opens nothing. */
const BROWSER_COOKIE = 'idrel_browser';
const BROWSER_DAYS = 180;
const DAYS = 14;
/** So often it is written down that a session is used. */
const SEEN_EVERY = 5 * 60_000;

export interface OpenSession {
  readonly who: Who;
  readonly csrf: string;
}

/** Puts the person behind the session cookie into `response.locals`, and holds changes against the session's own token. */
export function sessions(db: Database) {
  return async (request: Request, response: Response, next: NextFunction): Promise<void> => {
    try {
      // A program calls by a key.
      if (response.locals.who) return next();
      const token = parse(request.headers.cookie ?? '')[COOKIE];
      if (!token) return next();
      const hash = digest(token);
      const open = await whoInSession(db, hash);
      if (!open) return next();
      const changes = !['GET', 'HEAD', 'OPTIONS'].includes(request.method);
      if (changes && request.get('x-idrel-token') !== open.csrf) {
        throw new ApiProblem('token-missing', 'The change did not carry the token of your session.', {
          mend: 'Reload the page. Programs send the token from GET /session as X-Idrel-Token.',
        });
      }
      if (Date.now() - open.seenAt.getTime() > SEEN_EVERY)
        void db.run('update session set seen_at = now() where token_hash = $1', [hash]).catch(() => undefined);
      response.locals.who = open.who;
      const as = request.get('x-idrel-as');
      if (as !== undefined) response.locals.seenAs = () => seenAs(db, open, as);
      response.locals.csrf = open.csrf;
      response.locals.session = hash.toString('hex');
      next();
    } catch (error) {
      next(error);
    }
  };
}

/** The other person, for who said in this session that they look at the catalog as them. @throws 403 */
async function seenAs(db: Db, { who, lookingAs }: Pick<OpenSession, 'who'> & { lookingAs: string | null }, as: string) {
  const other = lookingAs === as && who.isAnywhere('policy administrator') ? await loadWho(db, as) : undefined;
  if (!other)
    throw new ApiProblem('forbidden', 'You do not look at the catalog as this person.', {
      mend: 'Begin it anew under Access → Try it as, or go back to yourself.',
    });
  return other.asSeenBy(who);
}

/** Says as whom somebody looks at the catalog in a session; null for as themselves. @throws 403, 404 */
export async function lookAs(db: Database, who: Who, session: string, personId: string | null): Promise<void> {
  await db.transaction(async (tx) => {
    // Whoever has lost the right meanwhile gets back to themselves all the same.
    if (personId !== null) {
      who.mustAnywhere('policy administrator');
      const other = await loadWho(tx, personId);
      if (!other || other.partner) throw notFound('The person');
      await record(
        tx,
        who,
        'looked at the catalog as them',
        { kind: 'person', id: personId, name: other.name, domainId: null },
        null,
        { by: who.name },
      );
    }
    await tx.run('update session set as_person = $2 where token_hash = $1', [Buffer.from(session, 'hex'), personId]);
  });
}

/** The news by which everything that goes on in a session hears that it has ended. */
export const sessionTopic = (session: string): string => `session:${session}`;

/** The person behind a session that is still open, with the rights they have now. */
export async function whoOfSession(db: Db, session: string): Promise<Who | undefined> {
  return (await whoInSession(db, Buffer.from(session, 'hex')))?.who;
}

/** What a browser says of itself, in words; nothing of one that says nothing that is known. */
function browserOf(said: string | undefined): string {
  if (!said) return '';
  const { browser, os } = Bowser.parse(said.slice(0, 1000));
  const name = [browser.name, browser.version?.split('.')[0]].filter(Boolean).join(' ');
  return [name, os.name].filter(Boolean).join(', ');
}

/** @param said what the browser says of itself */
export async function openSession(
  db: Db,
  config: Config,
  response: Response,
  personId: string,
  said: string | undefined,
): Promise<OpenSession> {
  const token = newToken();
  const csrf = newToken();
  await db.run(
    `insert into session (token_hash, person_id, csrf, browser, expires_at) values ($1, $2, $3, $4, now() + interval '${DAYS} days')`,
    [digest(token), personId, csrf, browserOf(said)],
  );
  response.append(
    'set-cookie',
    serialize(COOKIE, token, {
      httpOnly: true,
      sameSite: 'strict',
      secure: config.secureCookies,
      path: '/',
      maxAge: DAYS * 86_400,
    }),
  );
  const who = await loadWho(db, personId);
  if (!who) throw new ApiProblem('wrong-sign-in', 'This person is no longer there.');
  return { who, csrf };
}

/** Sessions of a person that are open. @param here the digest of the one that asks */
export const listSessions = (db: Db, who: Who, here: string): Promise<ListedSession[]> =>
  db.rows<ListedSession>(
    `
      select id, created_at as since, seen_at as "seenAt", browser, encode(token_hash, 'hex') = $2 as here
      from session
      where person_id = $1 and expires_at > now()
      order by seen_at desc, created_at desc`,
    [who.id, here],
  );

/**
 * Ends sessions of a person, and all that goes on in them.
 * @param which the id of one; null: all
 * @param but the digest of one that stays
 * @returns how many
 */
export async function endSessions(db: Db, personId: string, which: string | null, but = ''): Promise<number> {
  const ended = await db.rows<{ session: string }>(
    `
      delete from session
      where person_id = $1 and ($2::uuid is null or id = $2) and encode(token_hash, 'hex') <> $3
      returning encode(token_hash, 'hex') as session`,
    [personId, which, but],
  );
  for (const { session } of ended) await db.run(TELL, [sessionTopic(session)]);
  return ended.length;
}

export async function closeSession(db: Db, request: Request, response: Response): Promise<void> {
  const token = parse(request.headers.cookie ?? '')[COOKIE];
  if (token) {
    await db.run('delete from session where token_hash = $1', [digest(token)]);
    await db.run(TELL, [sessionTopic(digest(token).toString('hex'))]);
  }
  response.append('set-cookie', serialize(COOKIE, '', { httpOnly: true, sameSite: 'strict', path: '/', maxAge: 0 }));
}

/** The digest of what a browser says of itself by its cookie, where this person signed in with it before. */
export async function knownBrowser(db: Db, request: Request, email: string): Promise<Buffer | null> {
  const token = parse(request.headers.cookie ?? '')[BROWSER_COOKIE];
  if (!token) return null;
  const known = await db.one<{ token_hash: Buffer }>(
    `
      update known_browser b
      set seen_at = now()
      from person p
      where b.token_hash = $1 and p.id = b.person_id and lower(p.email) = lower($2)
      returning b.token_hash`,
    [digest(token), email],
  );
  return known?.token_hash ?? null;
}

/** Remembers a browser in which somebody signed in by password. */
export async function rememberBrowser(db: Db, config: Config, response: Response, personId: string): Promise<void> {
  const token = newToken();
  await db.run('insert into known_browser (token_hash, person_id) values ($1, $2)', [digest(token), personId]);
  response.append(
    'set-cookie',
    serialize(BROWSER_COOKIE, token, {
      httpOnly: true,
      sameSite: 'strict',
      secure: config.secureCookies,
      path: '/api/v1',
      maxAge: BROWSER_DAYS * 86_400,
    }),
  );
}
