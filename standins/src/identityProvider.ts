import { generateKeyPairSync, randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Router, urlencoded } from 'express';
import Provider, { type JWK } from 'oidc-provider';
import { html, page } from './page.ts';

export interface IdentityData {
  readonly name: string;
  readonly people: readonly {
    readonly id: string;
    readonly name: string;
    readonly email: string;
    readonly job: string;
    readonly groups: readonly string[];
  }[];
}

/** The one program that may ask it. */
export interface IdentityClient {
  readonly id: string;
  readonly secret: string;
  /** Where people are sent back to. */
  readonly back: string;
}

const readData = (folder: string): IdentityData =>
  JSON.parse(readFileSync(join(folder, 'identity.json'), 'utf8')) as IdentityData;

/**
 * An OpenID Connect provider at which one signs in by choosing who one is. The protocol is that of a certified library; keys, codes and sessions are
 * kept in memory, and are others after each start.
 * @param folder where `identity.json` says whom it knows, read anew each time
 * @param issuer the address at which its router is reached
 */
export function identityProvider(folder: string, issuer: string, client: IdentityClient): Router {
  const router = Router();
  const key = generateKeyPairSync('rsa', { modulusLength: 2048 }).privateKey.export({ format: 'jwk' });
  const provider = new Provider(issuer, {
    clients: [
      {
        client_id: client.id,
        client_secret: client.secret,
        redirect_uris: [client.back],
        response_types: ['code'],
        grant_types: ['authorization_code'],
      },
    ],
    jwks: { keys: [{ ...(key as JWK), use: 'sig', kid: 'stand-in' }] },
    cookies: { keys: [randomBytes(32).toString('hex')] },
    claims: { openid: ['sub'], profile: ['name', 'job'], email: ['email', 'email_verified'], groups: ['groups'] },
    features: { devInteractions: { enabled: false } },
    interactions: { url: (_context, { uid }) => `${new URL(issuer).pathname}/choose/${uid}` },
    pkce: { required: () => true },
    ttl: { Interaction: 600, Session: 3600, Grant: 3600, AccessToken: 600, IdToken: 600 },
    async findAccount(_context, id) {
      const person = readData(folder).people.find((entry) => entry.id === id);
      if (!person) return undefined;
      const { name, email, job, groups } = person;
      return {
        accountId: id,
        claims: async () => ({ sub: id, name, job, email, email_verified: true, groups: [...groups] }),
      };
    },
    // Nothing is asked about what the client may know: it is the only one, and of the same house.
    async loadExistingGrant(context) {
      const { client: asks, session, params } = context.oidc;
      if (!asks || !session?.accountId) return undefined;
      const grant = new context.oidc.provider.Grant({ clientId: asks.clientId, accountId: session.accountId });
      grant.addOIDCScope(String(params?.scope ?? 'openid'));
      await grant.save();
      return grant;
    },
  });
  router.get('/choose/:uid', async (request, response) => {
    const { prompt } = await provider.interactionDetails(request, response);
    const { name, people } = readData(folder);
    response.set('cache-control', 'no-store').send(
      page(
        name,
        html`<p>A stand-in for an organisation's sign-in. Choose who you are${prompt.name === 'login' ? '' : ' again'}.</p>
          ${people.map(
            (person) =>
              html`<form method="post">
                <p><button name="person" value="${person.id}">${person.name}</button> ${person.job}</p>
              </form>`,
          )}
          <form method="post"><p><button name="person" value="">Do not sign in</button></p></form>`,
      ),
    );
  });
  router.post('/choose/:uid', urlencoded({ extended: false, limit: '4kb' }), async (request, response) => {
    const { person } = request.body as { person?: string };
    await provider.interactionFinished(
      request,
      response,
      person ? { login: { accountId: person } } : { error: 'access_denied', error_description: 'Nobody was chosen.' },
      { mergeWithLastSubmission: false },
    );
  });
  router.use(provider.callback());
  return router;
}
