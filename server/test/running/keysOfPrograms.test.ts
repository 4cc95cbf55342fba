import { execFile } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { promisify } from 'node:util';
import { type Endpoint, isByKey, SCOPES, type Scope, scopeOf } from '@idrel/contract/http';
import { ENDPOINTS } from '@idrel/contract/operations';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ADDRESS, Caller, heldTo } from './caller.ts';

// Keys by which programs call the API: what each opens, what none opens, how they end, and calls that are sent again.
const NOBODY = '6e3f0b0e-0000-4000-8000-000000000000';
const administrator = new Caller();
const made: string[] = [];
let travel = '';

interface Wanted {
  readonly scopes?: readonly Scope[];
  readonly domainIds?: readonly string[] | null;
  readonly perMinute?: number;
}
const make = async (who: Caller, wanted: Wanted = {}) => {
  const { status, body } = await who.call('POST', '/api-keys', {
    name: 'A test',
    scopes: ['read'],
    domainIds: null,
    perMinute: 6000,
    ...wanted,
  });
  expect(status).toBe(200);
  made.push(body.id);
  return body as { id: string; key: string };
};
/** A program: no cookie, no token, a key. */
const by =
  (key: string) =>
  async (method: string, path: string, body?: unknown, more: Record<string, string> = {}) => {
    const response = await fetch(`${ADDRESS}/api/v1${path}`, {
      method,
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json', ...more },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    const text = await response.text();
    const answer = text ? JSON.parse(text) : undefined;
    heldTo(method, path, response.status, answer);
    return { status: response.status, body: answer, headers: response.headers };
  };

beforeAll(async () => {
  await administrator.as('Jorun Pell');
  const domains = (await administrator.call('GET', '/domains')).body as { id: string; name: string }[];
  travel = domains.find(({ name }) => name === 'Travel')?.id ?? '';
});
afterAll(async () => {
  for (const id of made) await administrator.call('DELETE', `/api-keys/${id}`);
});

describe('a key', () => {
  it('reads what its person reads, without cookie and token, and says how many calls are left', async () => {
    const program = by((await make(administrator)).key);
    const filter = encodeURIComponent('kind:table');
    const answer = await program('GET', `/assets?limit=1&filter=${filter}`);
    expect(answer.body.total).toBe((await administrator.call('GET', `/assets?limit=1&filter=${filter}`)).body.total);
    expect(answer.headers.get('ratelimit-policy')).toBe('"calls";q=6000;w=60');
    expect(answer.headers.get('ratelimit')).toMatch(/^"calls";r=\d+;t=\d+$/);
    expect((await program('GET', '/session')).body.person.name).toBe('Jorun Pell');
  });

  it('that holds for a domain sees and changes nothing elsewhere', async () => {
    const { key } = await make(administrator, { scopes: ['read', 'write'], domainIds: [travel] });
    const program = by(key);
    const all = (await administrator.call('GET', '/assets?limit=1&filter=')).body.total;
    const inTravel = (await administrator.call('GET', '/assets?limit=1&filter=domain:Travel')).body.total;
    expect((await program('GET', '/assets?limit=1&filter=')).body.total).toBe(inTravel);
    expect(inTravel).toBeLessThan(all);
    const [other] = (await administrator.call('GET', '/assets?limit=1&filter=domain:Vessels%20kind:table')).body.items;
    expect((await program('GET', `/assets/${other.id}`)).status).toBe(404);
    const patch = await program(
      'PATCH',
      `/assets/${other.id}`,
      { description: 'x' },
      { 'if-match': `"${other.version}"` },
    );
    expect(patch.status).toBe(404);
    // What holds for everybody is nobody's who has a key for one domain.
    expect((await program('POST', '/coverage/days')).status).toBe(403);
  });

  it('is unknown as soon as it has ended, and beside other words', async () => {
    const { id, key } = await make(administrator);
    const program = by(key);
    expect((await program('GET', '/sources')).status).toBe(200);
    await administrator.call('DELETE', `/api-keys/${id}`);
    expect(await program('GET', '/sources')).toMatchObject({ status: 401, body: { code: 'unknown-key' } });
    expect((await by('idrel_key_of_nobody')('GET', '/sources')).status).toBe(401);
    expect((await by('something else')('GET', '/sources')).status).toBe(401);
  });

  it('is replaced by another one, and goes on as long as was said', async () => {
    const { id, key } = await make(administrator, { scopes: ['read', 'lineage'], domainIds: [travel] });
    const next = (await administrator.call('POST', `/api-keys/${id}/rotate`, { hours: 5 })).body;
    made.push(next.id);
    for (const one of [key, next.key]) expect((await by(one)('GET', '/sources')).status).toBe(200);
    const listed = (await administrator.call('GET', '/api-keys')).body as { id: string }[];
    expect(listed.find((one) => one.id === next.id)).toMatchObject({
      scopes: ['read', 'lineage'],
      domains: [{ name: 'Travel' }],
      replaced: false,
    });
    expect(listed.find((one) => one.id === id)).toMatchObject({ replaced: true });
    expect((await administrator.call('POST', `/api-keys/${id}/rotate`, { hours: 5 })).status).toBe(404);
    const last = (await administrator.call('POST', `/api-keys/${next.id}/rotate`, { hours: 0 })).body;
    made.push(last.id);
    expect((await by(next.key)('GET', '/sources')).status).toBe(401);
    expect((await by(last.key)('GET', '/sources')).status).toBe(200);
  });

  it('makes no more calls a minute than it may', async () => {
    const program = by((await make(administrator, { perMinute: 3 })).key);
    const answers = [];
    for (let call = 0; call < 12; call += 1) answers.push(await program('GET', '/session'));
    // A minute may have turned on the way.
    const passed = answers.filter(({ status }) => status === 200);
    expect(passed.length).toBeGreaterThanOrEqual(3);
    expect(passed.length).toBeLessThanOrEqual(6);
    const refused = answers.find(({ status }) => status === 429);
    expect(refused?.body.code).toBe('too-many-calls');
    expect(Number(refused?.headers.get('retry-after'))).toBeGreaterThan(0);
  });

  it('of somebody else is seen and ended by administrators alone', async () => {
    const reader = await new Caller().as('Maud Ilkley');
    const { id, key } = await make(reader);
    expect((await reader.call('GET', '/api-keys?all=true')).status).toBe(403);
    const all = (await administrator.call('GET', '/api-keys?all=true')).body as { id: string; person: string }[];
    expect(all.find((one) => one.id === id)).toMatchObject({ person: 'Maud Ilkley', mine: false });
    const steward = await new Caller().as('Sunniva Dahlmark');
    expect((await steward.call('DELETE', `/api-keys/${id}`)).status).toBe(404);
    expect((await administrator.call('DELETE', `/api-keys/${id}`)).status).toBe(204);
    expect((await by(key)('GET', '/sources')).status).toBe(401);
    // For a domain in which one may not read there is no key.
    expect((await reader.call('POST', '/api-keys', { name: 'x', scopes: ['read'], domainIds: [travel] })).status).toBe(
      404,
    );
  });
});

describe('what keys open', () => {
  const withKeys = ENDPOINTS.filter(({ may }) => may !== 'anybody' && !isByKey(may));
  const ask = async (key: string, { method, path, body }: Endpoint) => {
    const response = await fetch(`${ADDRESS}/api/v1${path.replaceAll(/:\w+/g, NOBODY)}`, {
      method: method.toUpperCase(),
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json' },
      ...(body ? { body: '{}' } : {}),
    });
    const text = response.headers.get('content-type')?.includes('json') ? await response.text() : '';
    await response.body?.cancel().catch(() => undefined);
    return { status: response.status, code: text ? (JSON.parse(text) as { code?: string }).code : undefined };
  };

  it.each(SCOPES)('of the scope %s is no operation of another scope, and none that is for sessions', async (scope) => {
    const { key } = await make(administrator, { scopes: [scope] });
    for (const endpoint of withKeys) {
      if (scopeOf(endpoint)?.scope === scope) continue;
      expect([endpoint.id, await ask(key, endpoint)]).toEqual([endpoint.id, { status: 403, code: 'key-scope' }]);
    }
  });

  it('of all scopes but for one domain is nothing that reaches beyond it', async () => {
    const { key } = await make(administrator, { scopes: SCOPES, domainIds: [travel] });
    const whole = withKeys.filter((endpoint) => scopeOf(endpoint)?.whole);
    expect(whole.length).toBeGreaterThan(20);
    for (const endpoint of whole)
      expect([endpoint.id, await ask(key, endpoint)]).toEqual([endpoint.id, { status: 403, code: 'key-scope' }]);
  });
});

describe('a change by a key', () => {
  const note = () => `Of a program ${randomUUID()}`;
  const scheme = async () => ((await administrator.call('GET', '/schemes')).body as { id: string }[])[0]?.id ?? '';
  const term = async (name: string) => ({ name, schemeId: await scheme() });

  it('stands in the journal with the name of its person and of the key', async () => {
    const program = by((await make(administrator, { scopes: ['write'] })).key);
    const name = note();
    const { id } = (await program('POST', '/terms', await term(name))).body;
    const [entry] = (await administrator.call('GET', `/journal?subject=${id}`)).body;
    expect(entry).toMatchObject({ person: 'Jorun Pell', byKey: 'A test', subject: name });
    const { version } = (await administrator.call('GET', `/terms/${id}`)).body;
    await administrator.call('DELETE', `/terms/${id}`, undefined, { 'if-match': `"${version}"` });
    const [last] = (await administrator.call('GET', `/journal?subject=${id}`)).body;
    expect(last).toMatchObject({ byKey: null });
  });

  it('that is sent again with its idempotency key is done once, also when both come at once', async () => {
    const program = by((await make(administrator, { scopes: ['write'] })).key);
    const body = await term(note());
    const once = { 'idempotency-key': randomUUID() };
    const first = await Promise.all([1, 2, 3, 4].map(() => program('POST', '/terms', body, once)));
    const done = first.filter(({ status }) => status === 200);
    expect(done.length).toBeGreaterThanOrEqual(1);
    for (const { status, body: answer } of first.filter((one) => one.status !== 200))
      expect([status, answer.code]).toEqual([409, 'call-under-way']);
    const again = await program('POST', '/terms', body, once);
    expect([again.status, again.body]).toEqual([200, done[0]?.body]);
    expect(again.headers.get('idempotency-replayed')).toBe('true');
    const other = await program('POST', '/terms', { ...body, name: note() }, once);
    expect(other).toMatchObject({ status: 422, body: { code: 'call-differs' } });
    expect((await program('POST', '/terms', body, { 'idempotency-key': 'two words' })).status).toBe(422);
    // What was refused did nothing: it can be sent again, mended.
    const refused = { 'idempotency-key': randomUUID() };
    expect((await program('POST', '/terms', body, refused)).status).toBe(409);
    const mended = await program('POST', '/terms', { ...body, name: note() }, refused);
    expect(mended.status).toBe(200);
    for (const { id } of [done[0]?.body, mended.body]) await administrator.call('DELETE', `/terms/${id}`);
  });
});

it('an answer that shows a secret is not kept to be shown again', async () => {
  const once = { 'idempotency-key': randomUUID() };
  const body = { name: `Agent ${randomUUID()}`, group: 'tests', domainId: travel };
  const first = await administrator.call('POST', '/agents', body, once);
  expect(first.status).toBe(200);
  expect(await administrator.call('POST', '/agents', body, once)).toMatchObject({
    status: 409,
    body: { code: 'name-taken' },
  });
  await administrator.call('DELETE', `/agents/${first.body.id}`);
});

it('curl is all it takes', async () => {
  const { key } = await make(administrator);
  const { stdout } = await promisify(execFile)('curl', [
    '-s',
    '-H',
    `Authorization: Bearer ${key}`,
    `${ADDRESS}/api/v1/assets?limit=1&filter=kind:table`,
  ]);
  expect(JSON.parse(stdout).items).toHaveLength(1);
});
