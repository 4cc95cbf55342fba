import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ADDRESS, Caller } from './caller.ts';

// Catalogs of others as sources: that of the stand-in, and the demo's own, taken out and taken in again.
const administrator = new Caller();
const made: string[] = [];
let domainId = '';
let [keyId, credentialId] = ['', ''];

async function register(name: string, address: object, credential: string | null): Promise<string> {
  const { status, body } = await administrator.call('POST', '/sources', {
    name,
    kind: 'dcat',
    address,
    domainId,
    description: '',
    credentialId: credential,
  });
  expect([status, body.mend]).toEqual([200, undefined]);
  made.push(body.id);
  return body.id;
}
async function scan(id: string): Promise<{ state: string; problem: unknown; counts: Record<string, number> }> {
  const { status } = await administrator.call('POST', `/sources/${id}/runs`, {});
  expect(status).toBe(200);
  const last = async () => (await administrator.call('GET', `/sources/${id}/runs`)).body[0];
  await expect.poll(async () => (await last()).endedAt, { timeout: 120_000 }).not.toBeNull();
  return last();
}
const found = async (filter: string) => {
  const { body } = await administrator.call('GET', `/assets?limit=200&filter=${encodeURIComponent(filter)}`);
  return body as {
    total: number;
    items: { id: string; path: string; kind: string; type: string | null; comment: string | null }[];
  };
};

beforeAll(async () => {
  await administrator.as('Jorun Pell');
  const domains = (await administrator.call('GET', '/domains')).body as { id: string; name: string }[];
  domainId = domains.find(({ name }) => name === 'Shared')?.id ?? '';
});
afterAll(async () => {
  for (const id of made) {
    const { body } = await administrator.call('GET', `/sources/${id}`);
    await administrator.call('DELETE', `/sources/${id}?assets=${body.assets}`);
  }
  if (credentialId) await administrator.call('DELETE', `/credentials/${credentialId}`);
  if (keyId) await administrator.call('DELETE', `/api-keys/${keyId}`);
});

describe('what a harbour trust publishes', () => {
  it('is scanned without a token: datasets, files and columns, with what is said of them and where they come from', async () => {
    const name = `Harbour ${Date.now()}`;
    const mailbox = (await administrator.call('GET', '/session')).body.ways.mailbox as string;
    const url = `${mailbox.replace(/\/mail$/, '')}/harbour/catalog.ttl`;
    const run = await scan(await register(name, { url, query: '' }, null));
    expect([run.state, run.problem]).toEqual(['done', null]);
    const { items } = await found(`source:"${name}" kind:any`);
    const kinds = Object.fromEntries(items.map(({ path, kind }) => [path, kind]));
    expect(kinds).toMatchObject({
      'Berth calls': 'file set',
      'Berth calls/Berth calls 2026': 'file set',
      'Berth calls/Berth calls 2026/berth-calls-2026.csv': 'file',
      'Water levels': 'table',
      'Water levels/level_cm': 'column',
      'Notices to mariners': 'application',
    });
    const delays = items.find(({ path }) => path === 'Delays by quay');
    const picture = (await administrator.call('GET', `/lineage?focus=${delays?.id}&upstream=1&downstream=0`)).body as {
      nodes: { path: string }[];
    };
    expect(picture.nodes.map(({ path }) => path).sort()).toEqual(['Berth calls', 'Delays by quay', 'Quays']);
    const { native } = (await administrator.call('GET', `/assets/${delays?.id}`)).body;
    expect(native).toMatchObject({ publisher: 'Marrick Harbour Trust' });
    // Read again, nothing is other.
    const again = await administrator.call('GET', `/sources/${made.at(-1)}/runs`);
    expect(again.status).toBe(200);
    const second = (await scan(made.at(-1) ?? '')) as unknown as { comparison: { counts: object } };
    expect(second.comparison.counts).toEqual({ new: 0, back: 0, gone: 0, changed: 0 });
  });
});

describe('the catalog of another Idrel', () => {
  it('comes in as it went out: each table with its columns, types, words and ways', async () => {
    const key = (
      await administrator.call('POST', '/api-keys', {
        name: `Harvest ${Date.now()}`,
        scopes: ['read'],
        domainIds: null,
      })
    ).body;
    keyId = key.id;
    const name = `Mirror ${Date.now()}`;
    credentialId = (
      await administrator.call('POST', '/credentials', { name, kind: 'token', username: '', password: key.key })
    ).body.id;
    const filter = 'source:"Booking system" -kind:function -kind:procedure';
    const query = new URLSearchParams({ as: 'ttl', filter }).toString();
    const run = await scan(await register(name, { url: `${ADDRESS}/api/v1/described-many`, query }, credentialId));
    expect([run.state, run.problem]).toEqual(['done', null]);
    for (const kind of ['table', 'view', 'column']) {
      const theirs = await found(`source:"Booking system" kind:${kind}`);
      const ours = await found(`source:"${name}" kind:${kind}`);
      const tail = (path: string) =>
        path
          .replaceAll('/', '.')
          .split('.')
          .slice(kind === 'column' ? -3 : -2)
          .join('.');
      const paths = (items: typeof ours.items) => items.map(({ path }) => tail(path)).sort();
      expect(ours.total, kind).toBe(theirs.total);
      if (ours.total <= 200) expect(paths(ours.items)).toEqual(paths(theirs.items));
      if (kind !== 'column') continue;
      const types = new Map(theirs.items.map(({ path, type }) => [tail(path), type]));
      for (const { path, type } of ours.items)
        if (types.has(tail(path))) expect([path, type]).toEqual([path, types.get(tail(path))]);
    }
    const [passenger] = (await found(`source:"${name}" kind:table name:passenger`)).items;
    expect(passenger?.comment).toBeTruthy();
  });

  it('is refused with words where the token opens nothing', async () => {
    const wrong = (
      await administrator.call('POST', '/credentials', {
        name: `Wrong ${Date.now()}`,
        kind: 'token',
        username: '',
        password: 'idrel_key_nothing',
      })
    ).body.id;
    const id = await register(
      `Shut ${Date.now()}`,
      { url: `${ADDRESS}/api/v1/described-many`, query: 'as=ttl' },
      wrong,
    );
    const run = await scan(id);
    expect(run.state).toBe('failed');
    expect(JSON.stringify(run.problem)).toContain('does not accept the token');
    await administrator.call(
      'PATCH',
      `/sources/${id}`,
      { credentialId: null },
      { 'if-match': `"v${(await administrator.call('GET', `/sources/${id}`)).body.version}"` },
    );
    await administrator.call('DELETE', `/credentials/${wrong}`);
  });
});
