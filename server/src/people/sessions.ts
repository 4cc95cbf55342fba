import { parse, serialize } from 'cookie';
import type { NextFunction, Request, Response } from 'express';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { ApiProblem } from '../platform/problems.ts';
import { digest, newToken, passwordMatches } from '../platform/secrets.ts';
import { TELL } from '../platform/signals.ts';
import { loadWho, type Who, whoInSession } from './who.ts';

const COOKIE = 'idrel_session';
const DAYS = 14;

export interface OpenSession {
  readonly who: Who;
  readonly csrf: string;
}

/** Puts the person behind the session cookie into `response.locals`, and holds changes against the session's own token. */
export function sessions(db: Database) {
  return async (request: Request, response: Response, next: NextFunction): Promise<void> => {
    try {
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
      response.locals.who = open.who;
      response.locals.csrf = open.csrf;
      response.locals.session = hash.toString('hex');
      next();
    } catch (error) {
      next(error);
    }
  };
}

/** The news by which everything that goes on in a session hears that it has ended. */
export const sessionTopic = (session: string): string => `session:${session}`;

/** The person behind a session that is still open, with the rights they have now. */
export async function whoOfSession(db: Db, session: string): Promise<Who | undefined> {
  return (await whoInSession(db, Buffer.from(session, 'hex')))?.who;
}

export async function openSession(db: Db, config: Config, response: Response, personId: string): Promise<OpenSession> {
  const token = newToken();
  const csrf = newToken();
  await db.run(
    `insert into session (token_hash, person_id, csrf, expires_at) values ($1, $2, $3, now() + interval '${DAYS} days')`,
    [digest(token), personId, csrf],
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

export async function closeSession(db: Db, request: Request, response: Response): Promise<void> {
  const token = parse(request.headers.cookie ?? '')[COOKIE];
  if (token) {
    await db.run('delete from session where token_hash = $1', [digest(token)]);
    await db.run(TELL, [sessionTopic(digest(token).toString('hex'))]);
  }
  response.append('set-cookie', serialize(COOKIE, '', { httpOnly: true, sameSite: 'strict', path: '/', maxAge: 0 }));
}

// A digest of a password that nobody has: signing in takes as long for an unknown address as for a known one.
const NOBODY = 'scrypt:AAAAAAAAAAAAAAAAAAAAAA==:AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA=';

export async function personByPassword(db: Db, email: string, password: string): Promise<string> {
  const row = await db.one<{ id: string; password_hash: string | null }>(
    'select id, password_hash from person where lower(email) = lower($1) and left_at is null',
    [email],
  );
  const matches = await passwordMatches(password, row?.password_hash ?? NOBODY);
  if (!row || !matches)
    throw new ApiProblem('wrong-sign-in', 'E-mail or password is not right.', {
      mend: 'Check both; the password tells capitals apart.',
    });
  return row.id;
}
