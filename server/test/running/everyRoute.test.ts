import { type Endpoint, isByKey } from '@idrel/contract/http';
import { ENDPOINTS } from '@idrel/contract/operations';
import type { Role } from '@idrel/contract/people';
import { beforeAll, describe, expect, it } from 'vitest';
import { Caller } from './caller.ts';

// Every operation of the contract, met as a stranger, a careless program, and somebody of each role would meet it.
const NOBODY = '6e3f0b0e-0000-4000-8000-000000000000';
const named = ENDPOINTS.map((endpoint) => [`${endpoint.method.toUpperCase()} ${endpoint.path}`, endpoint] as const);
const withoutSession = ({ may }: Endpoint) => may === 'anybody' || isByKey(may);
const ofPeople = named.filter(([, endpoint]) => !withoutSession(endpoint));
const changing = named.filter(([, endpoint]) => endpoint.method !== 'get' && endpoint.path !== '/session');
const hasId = ({ path }: Endpoint) => path.includes(':');
/** The address with something in the place of its parameters. */
const filled = ({ path }: Endpoint, value: string) => path.replaceAll(/:\w+/g, value);
const ask = (
  caller: Caller,
  endpoint: Endpoint,
  headers: Record<string, string> = {},
  value = NOBODY,
  body: unknown = {},
) => caller.call(endpoint.method.toUpperCase(), filled(endpoint, value), endpoint.body ? body : undefined, headers);

/** What each role may beside what its name says. */
const INCLUDED: Record<Role, readonly Role[]> = {
  reader: [],
  editor: [],
  steward: ['editor'],
  'source administrator': [],
  'policy administrator': [],
  administrator: ['editor', 'steward', 'source administrator', 'policy administrator'],
};

describe('every operation', () => {
  it('stands once, at an address of its own, with parameters for what its address leaves open', () => {
    expect(ENDPOINTS.length).toBeGreaterThan(100);
    expect(new Set(named.map(([name]) => name)).size).toBe(ENDPOINTS.length);
    expect(new Set(ENDPOINTS.map(({ id }) => id)).size).toBe(ENDPOINTS.length);
    for (const { id, path, params } of ENDPOINTS)
      expect(Object.keys((params?.describe().keys as object | undefined) ?? {}), id).toEqual(
        [...path.matchAll(/:(\w+)/g)].map(([, name]) => name),
      );
  });

  it.each(named.filter(([, { may }]) => may !== 'anybody'))(
    '%s is closed to whoever is not signed in',
    async (_name, endpoint) => {
      const answer = await ask(new Caller(), endpoint);
      expect([401, 403]).toContain(answer.status);
      expect(answer.type).toContain('application/problem+json');
      expect(answer.body.mend ?? answer.body.detail).toBeTruthy();
    },
  );

  const reader = new Caller();
  const all = new Caller();
  beforeAll(async () => {
    await reader.as('Maud Ilkley');
    await all.as('Jorun Pell');
  });

  it.each(changing.filter(([, endpoint]) => !withoutSession(endpoint)))(
    '%s is refused without the token of the session',
    async (_name, endpoint) => {
      expect((await ask(reader, endpoint, { 'x-idrel-token': '' })).status).toBe(403);
    },
  );

  it.each(changing.filter(([, endpoint]) => endpoint.body))(
    '%s says what is wrong with a body that fits nothing',
    async (_name, endpoint) => {
      for (const body of [{}, { nothing: 'of this' }, [], 'text', 7]) {
        const answer = await ask(all, endpoint, {}, NOBODY, body);
        expect(answer.status, JSON.stringify(body)).toBeGreaterThanOrEqual(400);
        expect(answer.status, JSON.stringify(answer.body)).toBeLessThan(500);
        expect(answer.body.detail.length).toBeGreaterThan(10);
      }
    },
  );

  it.each(named.filter(([, endpoint]) => hasId(endpoint) && endpoint.stream !== 'events'))(
    '%s does not fall over ids of nothing',
    async (_name, endpoint) => {
      for (const id of [NOBODY, 'nothing', "';drop table asset;--", '%00', '9'.repeat(300)]) {
        const answer = await ask(all, endpoint, { 'if-match': '"v1"' }, encodeURIComponent(id));
        expect(answer.status, `${id}: ${JSON.stringify(answer.body)}`).toBeLessThan(500);
      }
    },
  );

  it.each(ofPeople.filter(([, endpoint]) => endpoint.method === 'get' && !hasId(endpoint)))(
    '%s answers or refuses odd questions',
    async (_name, endpoint) => {
      const queries = Object.keys((endpoint.query?.describe().keys as object | undefined) ?? {});
      for (const value of ['', 'x', '-1', '1e99', '"', '%', NOBODY]) {
        const query = queries.map((name) => `${name}=${encodeURIComponent(value)}`).join('&');
        const answer = await reader.call('GET', `${endpoint.path}?${query}`);
        expect(answer.status, `${value}: ${JSON.stringify(answer.body)}`).toBeLessThan(500);
      }
    },
  );

  it.each(named.filter(([, endpoint]) => endpoint.versioned))(
    '%s is not done when it names no version',
    async (_name, endpoint) => {
      const answer = await ask(all, endpoint);
      // What is sent is looked at first: a form hears of its fields before it hears of this.
      expect([422, 428]).toContain(answer.status);
    },
  );
});

describe('every operation as everybody of the demo', async () => {
  const { demoPeople } = (await new Caller().call('GET', '/session')).body as {
    demoPeople: readonly { name: string }[];
  };
  it.each(demoPeople.map(({ name }) => name))(
    '%s may begin what a role of theirs allows, and nothing else',
    async (name) => {
      const caller = await new Caller().as(name);
      const { grants } = (await caller.call('GET', '/session')).body as { grants: readonly { role: Role }[] };
      const has = new Set(grants.flatMap(({ role }) => [role, ...INCLUDED[role]]));
      const wrong: string[] = [];
      for (const [operation, endpoint] of ofPeople) {
        if (typeof endpoint.may !== 'object' || !('roles' in endpoint.may)) continue;
        const { status } = await ask(caller, endpoint, { 'if-match': '"v1"' });
        const may = endpoint.may.roles.some((role) => has.has(role));
        if ((status === 403) === may) wrong.push(`${operation} for ${[...has].join(', ')}: ${status}`);
      }
      expect(wrong).toEqual([]);
    },
  );

  it('who is of a partner organisation is let into what is for them, and into nothing else', async () => {
    const caller = await new Caller().as('Ines Carrow');
    const told = async (endpoint: Endpoint) => {
      const { status, body } = await ask(caller, endpoint, { 'if-match': '"v1"' });
      return status === 403 && String(body.detail).includes('is not there for Marrick Harbour Trust');
    };
    const open: string[] = [];
    // Whoever has signed out is asked to sign in, wherever they go.
    const staying = ofPeople.filter(([, { id }]) => id !== 'signOut');
    for (const [, endpoint] of staying) if (!(await told(endpoint))) open.push(endpoint.id);
    expect(open.sort()).toEqual(
      staying
        .filter(([, { partners }]) => partners)
        .map(([, { id }]) => id)
        .sort(),
    );
    expect(open.length).toBeGreaterThan(8);
    expect(open.length).toBeLessThan(20);
  });
});
