import { type SessionAnswer, signInEndpoints } from '@idrel/contract/people';
import { parse, serialize } from 'cookie';
import type { Request, Response, Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Config } from '../platform/config.ts';
import type { Context } from '../platform/context.ts';
import { ApiProblem } from '../platform/problems.ts';
import { decrypt, encrypt } from '../platform/secrets.ts';
import { backAt, cameBack, goOutside, type Leaving, personOutside, Refused } from './outside.ts';
import { afterChange, askLink, canSendLinks, invite, readLink, usePasswordLink } from './passwordLinks.ts';
import { type Knows, personByPassword, setPassword } from './passwords.ts';
import { knownBrowser, openSession } from './sessions.ts';

const COOKIE = 'idrel_leaving';
const MINUTES = 10;

/** How one can sign in here. */
export const waysOf = (config: Config): SessionAnswer['ways'] => ({
  password: config.passwords,
  mail: canSendLinks(config),
  outside: config.outside?.name ?? null,
  mailbox: config.mailbox,
});

/** A path of this house to go to: nothing that leads a browser elsewhere. */
const pathOf = (to: string | undefined): string => (to && /^\/(?![/\\])\P{Cc}*$/u.test(to) ? to : '/');

function keep(response: Response, config: Config, leaving: Leaving | null): void {
  response.append(
    'set-cookie',
    serialize(COOKIE, leaving ? encrypt(config.key, JSON.stringify(leaving)).toString('base64url') : '', {
      httpOnly: true,
      // It comes back with a page of the provider, so not “strict”.
      sameSite: 'lax',
      secure: config.secureCookies,
      path: new URL(backAt('http://here')).pathname,
      maxAge: leaving ? MINUTES * 60 : 0,
    }),
  );
}

function kept(request: Request, config: Config): Leaving {
  const sealed = parse(request.headers.cookie ?? '')[COOKIE];
  try {
    return JSON.parse(decrypt(config.key, Buffer.from(sealed ?? '', 'base64url'))) as Leaving;
  } catch (error) {
    throw new Refused('expired', 'This browser was not sent to the provider, or too long ago.', error);
  }
}

export function signInRoutes(router: Router, { db, config, log }: Context): void {
  serve(router, signInEndpoints.askLink, ({ body }) => askLink(db, config, body.email));
  serve(router, signInEndpoints.readLink, ({ body }) => db.transaction((tx) => readLink(tx, body.token)));
  serve(router, signInEndpoints.useLink, ({ body }) =>
    db.transaction((tx) => usePasswordLink(tx, body.token, body.password)),
  );
  serve(router, signInEndpoints.invite, ({ who, params }) =>
    db.transaction((tx) => invite(tx, config, who, params.id)),
  );
  serve(router, signInEndpoints.changePassword, async ({ who, body, request, response }) => {
    const me = (await db.one<Knows>('select id, name, email from person where id = $1', [who.id])) as Knows;
    await personByPassword(db, me.email, body.now, await knownBrowser(db, request, me.email));
    const ended = await db.transaction(async (tx) => {
      await setPassword(tx, me, body.password);
      return afterChange(tx, me, String(response.locals.session ?? ''));
    });
    return { ended };
  });

  /** Goes on elsewhere whatever happens: a browser stands here, not a program. */
  const refused = (response: Response, error: unknown): void => {
    const why = error instanceof Refused ? error.why : 'failed';
    log.warn({ err: error }, 'somebody could not sign in by the identity provider');
    response.redirect(`/?refused=${why}`);
  };
  serve(router, signInEndpoints.outside, async ({ query, response }) => {
    try {
      if (!config.outside || !config.address) throw new Refused('failed', 'No identity provider is set up.');
      const { url, leaving } = await goOutside(config.outside, config.address, pathOf(query.to));
      keep(response, config, leaving);
      response.redirect(url);
    } catch (error) {
      refused(response, error);
    }
  });
  serve(router, signInEndpoints.outsideBack, async ({ request, response }) => {
    try {
      const { outside, address } = config;
      if (!outside || !address) throw new Refused('failed', 'No identity provider is set up.');
      const leaving = kept(request, config);
      const said = await cameBack(outside, address, request.originalUrl.split('?')[1] ?? '', leaving);
      const personId = await db.transaction((tx) => personOutside(tx, outside, said));
      await openSession(db, config, response, personId, request.get('user-agent'));
      keep(response, config, null);
      response.redirect(leaving.to);
    } catch (error) {
      refused(response, error);
    }
  });
}

/** @throws 401 where nobody signs in by password */
export function mustTakePasswords({ passwords }: Config): void {
  if (!passwords)
    throw new ApiProblem('wrong-sign-in', 'Nobody signs in by password here.', {
      mend: 'Sign in by the identity provider.',
    });
}
