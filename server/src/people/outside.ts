import * as oidc from 'openid-client';
import { service } from '../journal/index.ts';
import type { OutsideConfig } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { recordOfPerson } from './ofPerson.ts';

/** Why somebody who comes back from the provider is not let in; the page of signing in has words for each. */
export type Refusal = 'cancelled' | 'expired' | 'failed' | 'not-verified' | 'unknown';
export class Refused extends Error {
  readonly why: Refusal;
  constructor(why: Refusal, detail: string, cause?: unknown) {
    super(detail, { cause });
    this.name = 'Refused';
    this.why = why;
  }
}

/** What a browser keeps from when it is sent to the provider until it comes back: nobody else's answer fits it. */
export interface Leaving {
  readonly state: string;
  readonly nonce: string;
  readonly verifier: string;
  /** The path to go to afterwards. */
  readonly to: string;
}

/** What the provider says of somebody. */
export interface Said {
  readonly issuer: string;
  readonly subject: string;
  readonly name: string;
  readonly job: string;
  readonly email: string | null;
  readonly verified: boolean;
  /** Undefined: it says nothing of groups. */
  readonly groups: readonly string[] | undefined;
}

const known = new Map<string, Promise<oidc.Configuration>>();
/** What the provider publishes of itself; asked for once. */
function provider({ issuer, clientId, clientSecret }: OutsideConfig): Promise<oidc.Configuration> {
  const found =
    known.get(issuer) ??
    oidc.discovery(new URL(issuer), clientId, clientSecret, undefined, {
      timeout: 10,
      // On this machine alone, by the configuration.
      execute: issuer.startsWith('http:') ? [oidc.allowInsecureRequests] : [],
    });
  known.set(issuer, found);
  found.catch(() => known.delete(issuer));
  return found;
}

export const backAt = (address: string): string => `${address}/api/v1/sign-in/outside/back`;

/** Where to send a browser to, and what it keeps meanwhile (authorization code flow with PKCE, RFC 7636, state and nonce). */
export async function goOutside(
  outside: OutsideConfig,
  address: string,
  to: string,
): Promise<{ readonly url: string; readonly leaving: Leaving }> {
  const leaving = { state: oidc.randomState(), nonce: oidc.randomNonce(), verifier: oidc.randomPKCECodeVerifier(), to };
  const url = oidc.buildAuthorizationUrl(await provider(outside), {
    redirect_uri: backAt(address),
    scope: outside.scopes,
    state: leaving.state,
    nonce: leaving.nonce,
    code_challenge: await oidc.calculatePKCECodeChallenge(leaving.verifier),
    code_challenge_method: 'S256',
  });
  return { url: url.href, leaving };
}

const text = (value: unknown): string => (typeof value === 'string' ? value.trim().slice(0, 200) : '');

/**
 * Who came back, by the provider's word: its signature, audience, nonce and times are checked.
 * @param query what the browser brought, as it stands in the address
 * @throws Refused
 */
export async function cameBack(
  outside: OutsideConfig,
  address: string,
  query: string,
  leaving: Leaving,
): Promise<Said> {
  if (new URLSearchParams(query).get('error') === 'access_denied')
    throw new Refused('cancelled', 'The provider did not sign them in.');
  try {
    const configuration = await provider(outside);
    const tokens = await oidc.authorizationCodeGrant(configuration, new URL(`${backAt(address)}?${query}`), {
      pkceCodeVerifier: leaving.verifier,
      expectedState: leaving.state,
      expectedNonce: leaving.nonce,
      idTokenExpected: true,
    });
    const claims = tokens.claims();
    if (!claims) throw new Error('The provider gave no ID token.');
    const more = configuration.serverMetadata().userinfo_endpoint
      ? await oidc.fetchUserInfo(configuration, tokens.access_token, claims.sub)
      : {};
    const all: Record<string, unknown> = { ...claims, ...more };
    const groups = all[outside.groups];
    return {
      issuer: claims.iss,
      subject: claims.sub,
      name: text(all.name),
      job: text(all.job),
      email: text(all.email) || null,
      verified: all.email_verified === true || outside.vouches,
      groups: Array.isArray(groups) ? groups.filter((group) => typeof group === 'string') : undefined,
    };
  } catch (error) {
    throw new Refused('failed', 'What the provider answered does not hold.', error);
  }
}

interface Found {
  id: string;
  name: string;
}

/**
 * The person whom the provider speaks of: by its own name for them; the first time by their address, where it has seen that it is theirs.
 * @throws Refused when it is nobody here
 */
export async function personOutside(tx: Db, outside: OutsideConfig, said: Said): Promise<string> {
  const by = service(outside.name);
  const known = await tx.one<Found>(
    `
      select p.id, p.name
      from outside_identity o
      join person p on p.id = o.person_id
      where o.issuer = $1 and o.subject = $2`,
    [said.issuer, said.subject],
  );
  const person = known ?? (await firstTime(tx, outside, said));
  if (said.groups) await takeGroups(tx, by, person, said.groups);
  const still = await tx.one('select from person where id = $1 and left_at is null', [person.id]);
  if (!still) throw new Refused('unknown', 'They have left.');
  return person.id;
}

async function firstTime(tx: Db, outside: OutsideConfig, said: Said): Promise<Found> {
  if (!said.email || !said.verified)
    throw new Refused('not-verified', 'The provider does not say that the address is theirs.');
  const by = service(outside.name);
  let person = await tx.one<Found>(
    `
      select id, name
      from person p
      where lower(email) = lower($1)
        and left_at is null
        and partner_id is null
        and not exists (select from outside_identity where issuer = $2 and person_id = p.id)`,
    [said.email, said.issuer],
  );
  if (!person && outside.addsPeople) {
    person = await tx.one<Found>(
      'insert into person (name, email, job) values ($1, $2, $3) on conflict do nothing returning id, name',
      [(said.name || said.email).slice(0, 120), said.email, said.job.slice(0, 120)],
    );
    if (person) await recordOfPerson(tx, by, 'created', person, null, { name: person.name, email: said.email });
  }
  if (!person) throw new Refused('unknown', 'Nobody here has this address.');
  await tx.run('insert into outside_identity (issuer, subject, person_id) values ($1, $2, $3)', [
    said.issuer,
    said.subject,
    person.id,
  ]);
  await recordOfPerson(tx, by, 'signed in for the first time', person, null, { 'signs in by': outside.name });
  return person;
}

/** Puts a person into the groups that the provider names, and out of those of its groups that it does not; other groups are none of its business. */
async function takeGroups(
  tx: Db,
  by: ReturnType<typeof service>,
  person: Found,
  claims: readonly string[],
): Promise<void> {
  const changed = await tx.rows<{ id: string; name: string; joins: boolean }>(
    `
      select g.id, g.name, g.claim = any($2::text[]) as joins
      from person_group g
      where g.claim is not null
        and (g.claim = any($2::text[])) <> exists (
          select from group_member m where m.group_id = g.id and m.person_id = $1
        )
      for update`,
    [person.id, claims.slice(0, 2000)],
  );
  if (changed.length === 0) return;
  const ids = (joins: boolean) => changed.filter((group) => group.joins === joins).map(({ id }) => id);
  const names = (joins: boolean) => changed.filter((group) => group.joins === joins).map(({ name }) => name);
  await tx.run('insert into group_member (group_id, person_id) select unnest($2::uuid[]), $1 on conflict do nothing', [
    person.id,
    ids(true),
  ]);
  await tx.run('delete from group_member where person_id = $1 and group_id = any($2::uuid[])', [person.id, ids(false)]);
  // Whoever has one of them open must not write over this.
  await tx.run('update person_group set version = version + 1 where id = any($1::uuid[])', [
    changed.map(({ id }) => id),
  ]);
  await tx.run('update person set version = version + 1 where id = $1', [person.id]);
  await recordOfPerson(
    tx,
    by,
    'groups as the provider says',
    person,
    { groups: names(false) },
    { groups: names(true) },
  );
}
