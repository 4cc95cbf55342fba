import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { urlOf, withClient } from '../place.ts';
import { Caller } from './caller.ts';

const steward = new Caller();
const analyst = new Caller();
const engineer = new Caller();
const find = async (who: Caller, filter: string, path: string) =>
  (await who.call('GET', `/assets?limit=200&filter=${encodeURIComponent(filter)}`)).body.items.find(
    (item: { path: string }) => item.path === path,
  );

beforeAll(async () => {
  await steward.as('Sunniva Dahlmark');
  await analyst.as('Maud Ilkley');
  await engineer.as('Rafe Quillon');
});

describe('sessions', () => {
  it('answers problem+json to whoever is not signed in', async () => {
    const answer = await new Caller().call('GET', '/assets');
    expect([answer.status, answer.body.code, answer.type]).toEqual([
      401,
      'not-signed-in',
      expect.stringContaining('application/problem+json'),
    ]);
  });

  it('signs in with the password, and not with another', async () => {
    const right = await new Caller().call('POST', '/session', {
      email: 'Sunniva.Dahlmark@tarnholm.example',
      password: 'tarnholm ferries',
    });
    expect([right.status, right.body.person.name]).toEqual([200, 'Sunniva Dahlmark']);
    expect(right.set).toMatch(/HttpOnly.*SameSite=Strict/);
    const wrong = await new Caller().call('POST', '/session', {
      email: 'sunniva.dahlmark@tarnholm.example',
      password: 'Tarnholm ferries',
    });
    expect([wrong.status, wrong.body.code]).toEqual([401, 'wrong-sign-in']);
  });

  it('refuses changes without the token of the session, and from pages of other sites', async () => {
    const bare = new Caller();
    bare.cookie = steward.cookie;
    expect((await bare.call('POST', '/terms', { name: 'Forged' })).body.code).toBe('token-missing');
    expect(
      (await steward.call('POST', '/terms', { name: 'Forged' }, { origin: 'https://elsewhere.example' })).body.code,
    ).toBe('foreign-origin');
  });

  it('ends with signing out', async () => {
    const leaving = await new Caller().as('Jorun Pell');
    const { cookie } = leaving;
    await leaving.call('DELETE', '/session');
    leaving.cookie = cookie;
    expect((await leaving.call('GET', '/assets')).status).toBe(401);
  });
});

describe('rights per domain', () => {
  it('shows only assets of domains that a person may read', async () => {
    expect(
      (await analyst.call('GET', `/assets?filter=${encodeURIComponent('source:"Booking system" -domain:Reference')}`))
        .body.total,
    ).toBe(0);
    const asset = await find(steward, 'kind:table passenger', 'booking.passenger');
    expect((await analyst.call('GET', `/assets/${asset.id}`)).status).toBe(404);
    expect((await analyst.call('GET', `/lineage?focus=${asset.id}`)).status).toBe(404);
    expect((await analyst.call('GET', `/lineage/impact?asset=${asset.id}`)).status).toBe(404);
    expect(
      (await analyst.call('PATCH', `/assets/${asset.id}`, { description: 'x' }, { 'if-match': '"v1"' })).status,
    ).toBe(403);
    // The tills on board are the analyst's own domain; of the Booking system nothing shows but what lies in Reference.
    const findings = (await analyst.call('GET', '/findings')).body;
    expect(JSON.stringify(findings)).not.toMatch(/"(booking|wake_card)[.]|Crewing/i);
    expect(JSON.stringify(findings)).toMatch(/"ref[.]/);
    expect((await analyst.call('GET', `/journal?subject=${asset.id}`)).body).toEqual([]);
  });

  it('refuses what takes another role, and names it', async () => {
    const [source] = (await engineer.call('GET', '/sources')).body;
    const domains = (await analyst.call('GET', '/domains')).body;
    const inReporting = {
      name: 'Mine',
      kind: 'folder',
      address: { path: '/tmp' },
      domainId: domains.find((domain: { name: string }) => domain.name === 'Reporting').id,
    };
    const refusals = [
      await analyst.call('POST', '/sources', inReporting),
      await analyst.call('GET', '/credentials'),
      await analyst.call('POST', '/credentials', { name: 'a', username: 'b', password: 'c' }),
      await analyst.call('POST', '/terms', { name: 'Mine' }),
      await engineer.call('POST', '/policies/reach', { policyId: null, draft: null }),
      await analyst.call('POST', '/policies', { name: 'Mine', effect: 'allow', everyone: true, classKeys: ['email'] }),
    ];
    expect(refusals.map((answer) => [answer.status, answer.body.code])).toEqual(refusals.map(() => [403, 'forbidden']));
    expect(refusals[0]?.body.detail).toContain('source administrator');
    // Who has the role nowhere is not even told whether it is there.
    for (const id of [source.id, '6e3f0b0e-0000-4000-8000-000000000000'])
      expect((await analyst.call('POST', `/sources/${id}/runs`, {})).status).toBe(403);
    expect(
      (await engineer.call('POST', '/access/try', { personId: source.id, sourceId: source.id, sql: 'select 1' }))
        .status,
    ).toBe(403);
  });

  it('names assets of policies, and what was done to policies and credentials, only to whom they concern', async () => {
    const asset = await find(steward, 'kind:table "payment"', 'booking.payment');
    const people = (await steward.call('GET', '/people')).body;
    const made = await steward.call('POST', '/policies', {
      name: 'Reading payments',
      effect: 'allow',
      personIds: [people[0].id],
      assetIds: [asset.id],
    });
    expect([made.status, made.body.assets[0].path]).toEqual([200, 'booking.payment']);
    const seen = (await analyst.call('GET', '/policies')).body.find(
      (policy: { id: string }) => policy.id === made.body.id,
    );
    expect(seen).toBeUndefined();
    const [credential] = (await engineer.call('GET', '/credentials')).body as { id: string }[];
    const told = async (who: Caller, subject = '') =>
      (await who.call('GET', `/journal?subject=${subject}`)).body.map(
        (entry: { subjectKind: string }) => entry.subjectKind,
      );
    expect([await told(steward, made.body.id), await told(steward, credential?.id)]).toEqual([
      ['policy'],
      expect.arrayContaining(['credential']),
    ]);
    expect([await told(analyst, made.body.id), await told(analyst, credential?.id)]).toEqual([[], []]);
    expect((await steward.call('DELETE', `/policies/${made.body.id}`)).status).toBe(204);
  });

  it('never shows a secret again', async () => {
    const text = JSON.stringify((await engineer.call('GET', '/credentials')).body);
    expect(text).toContain('ferry_reader');
    expect(text).not.toMatch(/"(password|secret)"/i);
    expect(text).not.toContain(readFileSync(join(process.env.IDREL_TEST_DEMO ?? '', 'reader-password'), 'utf8').trim());
  });
});

describe('a credential', () => {
  it('is tied to a source only by whom it is known to: its secret goes where the source says', async () => {
    const domain = (await engineer.call('GET', '/domains')).body.find(
      (entry: { name: string }) => entry.name === 'Onboard sales',
    );
    const grant =
      "person_id = (select id from person where name = 'Bettina Sark') and domain_id = $1 and role = 'source administrator'";
    await withClient(urlOf('idrel'), (client) =>
      client.query(
        "insert into role_grant (person_id, domain_id, role) select id, $1, 'source administrator' from person where name = 'Bettina Sark'",
        [domain.id],
      ),
    );
    const local = await new Caller().as('Bettina Sark');
    const credentials = (await local.call('GET', '/credentials')).body as { id: string; name: string }[];
    const idOf = (name: string) => credentials.find((entry) => entry.name === name)?.id;
    const source = (credentialId: unknown) =>
      local.call('POST', '/sources', {
        name: 'Elsewhere',
        kind: 'postgresql',
        address: { host: 'db.example.org', port: 5432, database: 'x' },
        domainId: domain.id,
        credentialId,
      });
    expect((await source(idOf('Ferry reader'))).status).toBe(403);
    const own = (await local.call('POST', '/credentials', { name: 'Of my own', username: 'x', password: 'y' })).body;
    const made = await source(own.id);
    expect(made.status).toBe(200);
    expect(
      (
        await local.call(
          'PATCH',
          `/sources/${made.body.id}`,
          { credentialId: idOf('Ferry reader') },
          { 'if-match': '"v1"' },
        )
      ).status,
    ).toBe(403);
    expect((await local.call('DELETE', `/sources/${made.body.id}?assets=0`)).status).toBe(204);
    expect((await local.call('DELETE', `/credentials/${own.id}`)).status).toBe(204);
    await withClient(urlOf('idrel'), (client) => client.query(`delete from role_grant where ${grant}`, [domain.id]));
  });
});

describe('edits by two people at once', () => {
  it('does not overwrite silently: the second is told what differs, and nothing of theirs is half saved', async () => {
    const asset = await find(steward, 'kind:table "card_holder"', 'wake_card.card_holder');
    const first = await steward.call(
      'PATCH',
      `/assets/${asset.id}`,
      { description: 'From the first' },
      { 'if-match': `"v${asset.version}"` },
    );
    expect([first.status, first.body.description]).toEqual([200, 'From the first']);
    const second = await engineer.call(
      'PATCH',
      `/assets/${asset.id}`,
      { description: 'From the second' },
      { 'if-match': `"v${asset.version}"` },
    );
    expect([second.status, second.body.code, second.body.current.description]).toEqual([
      412,
      'changed-meanwhile',
      'From the first',
    ]);
    expect((await engineer.call('PATCH', `/assets/${asset.id}`, { description: 'x' })).status).toBe(428);
    const both = await Promise.all(
      ['one', 'two', 'three'].map((description) =>
        steward.call('PATCH', `/assets/${asset.id}`, { description }, { 'if-match': `"v${first.body.version}"` }),
      ),
    );
    expect(both.map((answer) => answer.status).sort()).toEqual([200, 412, 412]);
    const [entry] = (await steward.call('GET', `/journal?subject=${asset.id}`)).body;
    expect(entry).toMatchObject({
      person: 'Sunniva Dahlmark',
      action: 'edited',
      before: { description: 'From the first' },
      after: { description: expect.stringMatching(/one|two|three/) },
    });
  });
});

describe('input that does not fit', () => {
  it('says what, where, and how to mend it', async () => {
    const source = await engineer.call('POST', '/sources', {
      name: '',
      kind: 'postgresql',
      address: { host: 'h', port: 99999 },
      domainId: 'x',
    });
    expect(source.status).toBe(422);
    expect(source.body.fields.map((entry: { field: string }) => entry.field).sort()).toEqual([
      'address.database',
      'address.port',
      'domainId',
      'name',
    ]);
    const filter = await steward.call('GET', '/assets?filter=colour%3Ared');
    expect([filter.status, filter.body.detail]).toEqual([
      422,
      '"colour" is not something to filter by. (at character 1)',
    ]);
    expect(
      (await steward.call('POST', '/policies', { name: 'Empty', effect: 'protect' })).body.fields.length,
    ).toBeGreaterThan(1);
    const outside = await engineer.call('POST', '/sources', {
      name: 'Outside',
      kind: 'folder',
      address: { path: '/etc' },
      domainId: (await engineer.call('GET', '/domains')).body[0].id,
    });
    expect([outside.status, outside.body.fields[0].field]).toEqual([422, 'address.path']);
  });

  it('describes every operation, from the schemas that check it', async () => {
    const description = (await new Caller().call('GET', '/openapi.json')).body;
    expect(description.openapi).toBe('3.1.0');
    expect(Object.keys(description.paths).length).toBeGreaterThan(30);
    expect(description.paths['/api/v1/sources'].post.requestBody.content['application/json'].schema.required).toEqual(
      expect.arrayContaining(['name', 'kind', 'domainId']),
    );
  });
});

describe('testing a connection', () => {
  const made: string[] = [];
  const url = new URL(urlOf('postgres'));
  const address = { host: url.hostname, port: Number(url.port), database: 'warehouse' };
  const test = async (name: string, wrong: object, credential?: { username: string; password: string }) => {
    const domainId = (await engineer.call('GET', '/domains')).body.find(
      (domain: { name: string }) => domain.name === 'Finance',
    ).id;
    const credentialId = credential
      ? (await engineer.call('POST', '/credentials', { name, ...credential })).body.id
      : null;
    const source = (
      await engineer.call('POST', '/sources', {
        name,
        kind: 'postgresql',
        address: { ...address, ...wrong },
        domainId,
        credentialId,
      })
    ).body;
    made.push(source.id);
    const steps = (await engineer.call('POST', `/sources/${source.id}/test`)).body as {
      step: string;
      state: string;
      mend?: string;
      detail: string;
    }[];
    return { failed: steps.find((step) => step.state === 'failed'), states: steps.map((step) => step.state) };
  };
  beforeAll(() =>
    withClient(url.href, (client) =>
      client.query(
        "do $$ begin if exists (select from pg_roles where rolname = 'bare_reader') then drop owned by bare_reader; drop role bare_reader; end if; end $$; create role bare_reader login password 'bare'; grant connect on database warehouse to bare_reader",
      ),
    ),
  );
  afterAll(async () => {
    for (const id of made) await engineer.call('DELETE', `/sources/${id}?assets=0`);
  });

  it('names the step that failed, and the statement that mends it', async () => {
    expect((await test('No such host', { host: 'no-such-host.invalid' })).failed).toMatchObject({
      step: 'Resolve',
      mend: expect.stringContaining('spelling'),
    });
    expect((await test('No such port', { port: 1 })).failed).toMatchObject({
      step: 'Connect',
      detail: expect.stringContaining('Nothing listens'),
    });
    expect((await test('No credential', {})).failed).toMatchObject({
      step: 'Authenticate',
      mend: 'Choose or make a credential for it.',
    });
    expect((await test('Wrong password', {}, { username: 'ferry_reader', password: 'wrong' })).failed).toMatchObject({
      step: 'Authenticate',
      mend: expect.stringContaining('ALTER ROLE "ferry_reader"'),
    });
    expect(
      (await test('No such database', { database: 'nowhere' }, { username: 'bare_reader', password: 'bare' })).failed,
    ).toMatchObject({
      step: 'Authenticate',
      detail: expect.stringContaining('There is no database nowhere'),
    });
    const rights = await test('No rights', {}, { username: 'bare_reader', password: 'bare' });
    expect(rights.states).toEqual(['passed', 'passed', 'passed', 'passed', 'failed']);
    expect(rights.failed).toMatchObject({
      step: 'Rights to read data',
      mend: expect.stringContaining('GRANT SELECT ON ALL TABLES IN SCHEMA "mart" TO "bare_reader"'),
    });
  });

  it('what it says mends it', async () => {
    const before = await test('Mended', {}, { username: 'bare_reader', password: 'bare' });
    await withClient(urlOf('warehouse'), (client) => client.query(before.failed?.mend ?? ''));
    const id = made.at(-1);
    const after = (await engineer.call('POST', `/sources/${id}/test`)).body as { state: string }[];
    expect(after.every((step) => step.state === 'passed')).toBe(true);
  });
});

describe('scan plans', () => {
  const plan = {
    name: 'By API',
    scope: { cover: 'everything' },
    schedule: { rhythm: { on: 'weekday', nth: 2, weekday: 2 }, time: '03:00', timeZone: 'Europe/Oslo' },
  };
  const sourceId = async () =>
    (await engineer.call('GET', '/sources')).body.find((source: { name: string }) => source.name === 'Crewing').id;

  it('are seen and made only by who may', async () => {
    const path = `/sources/${await sourceId()}/plans`;
    expect((await analyst.call('GET', path)).status).toBe(404);
    expect((await analyst.call('POST', path, plan)).status).toBe(403);
    expect((await new Caller().call('GET', path)).status).toBe(401);
  });

  it.each([
    ['a time zone that is none', { schedule: { ...plan.schedule, timeZone: 'Tarnholm/Ulvey' } }, 'time zone'],
    [
      'a date that has passed',
      { schedule: { ...plan.schedule, rhythm: { on: 'once', date: '2020-01-01' } } },
      'no time to come',
    ],
    ['a time that is none', { schedule: { ...plan.schedule, time: '25:00' } }, 'time'],
    ['a scope of nothing', { scope: { cover: 'chosen' } }, 'covers nothing'],
    ['a pattern that is none', { scope: { cover: 'everything', exclude: ['a***'] } }, 'three stars'],
  ])('refuse %s, with words', async (_, part, words) => {
    const answer = await engineer.call('POST', `/sources/${await sourceId()}/plans`, { ...plan, ...part });
    expect(answer.status).toBe(422);
    expect(answer.type).toContain('problem+json');
    expect(JSON.stringify(answer.body)).toContain(words);
  });

  it('may run once, far ahead', async () => {
    const path = `/sources/${await sourceId()}/plans`;
    const once = await engineer.call('POST', path, {
      ...plan,
      name: 'Once',
      schedule: { ...plan.schedule, rhythm: { on: 'once', date: '2099-12-31' } },
    });
    expect(once.body).toMatchObject({
      scheduleSentence: 'once, on 2099-12-31 at 03:00 (Europe/Oslo)',
      next: ['2099-12-31T02:00:00.000Z'],
    });
    await engineer.call('DELETE', `/plans/${once.body.id}`);
  });

  it('are made, changed with the version seen, and removed; each change is in the journal', async () => {
    const path = `/sources/${await sourceId()}/plans`;
    const made = (await engineer.call('POST', path, plan)).body;
    expect(made).toMatchObject({
      scopeSentence: 'Everything, now and later.',
      scheduleSentence: 'on the second Tuesday of each month at 03:00 (Europe/Oslo)',
      version: 1,
    });
    expect(made.next).toHaveLength(5);
    expect((await engineer.call('POST', path, plan)).body.code).toBe('name-taken');
    expect((await engineer.call('PATCH', `/plans/${made.id}`, { enabled: false })).status).toBe(428);
    const paused = await engineer.call('PATCH', `/plans/${made.id}`, { enabled: false }, { 'if-match': '"v1"' });
    expect(paused.body).toMatchObject({ enabled: false, next: [], version: 2 });
    expect(
      (await engineer.call('PATCH', `/plans/${made.id}`, { name: 'Late' }, { 'if-match': '"v1"' })).body.code,
    ).toBe('changed-meanwhile');
    expect((await engineer.call('DELETE', `/plans/${made.id}`)).status).toBeLessThan(300);
    expect((await engineer.call('GET', `/plans/${made.id}`)).status).toBe(404);
    const journal = (await engineer.call('GET', `/journal?subject=${await sourceId()}`)).body as { action: string }[];
    expect(journal.map((entry) => entry.action)).toEqual(
      expect.arrayContaining(['plan made', 'plan changed', 'plan removed']),
    );
  });
});

describe('what could not be read in a run', () => {
  it('is scanned again by itself', async () => {
    const folder = mkdtempSync(join(process.env.IDREL_TEST_DEMO ?? '', 'broken-'));
    writeFileSync(join(folder, 'good.csv'), 'a,b\n1,2\n');
    writeFileSync(join(folder, 'bad.ndjson'), '{"a": 1}\n{"a": \n');
    const domainId = (await engineer.call('GET', '/domains')).body[0].id;
    const source = (
      await engineer.call('POST', '/sources', {
        name: 'Half broken',
        kind: 'folder',
        address: { path: folder },
        domainId,
      })
    ).body;
    const ended = async (id: string) => {
      await expect.poll(async () => (await engineer.call('GET', `/runs/${id}`)).body.endedAt).not.toBeNull();
      return (await engineer.call('GET', `/runs/${id}`)).body;
    };
    const first = await ended((await engineer.call('POST', `/sources/${source.id}/runs`)).body.id);
    expect(first).toMatchObject({ state: 'partly done', details: { problems: [{ path: 'bad.ndjson' }] } });
    expect((await analyst.call('POST', `/runs/${first.id}/failed-again`)).status).toBeGreaterThanOrEqual(403);
    writeFileSync(join(folder, 'bad.ndjson'), '{"a": 1}\n');
    const again = await ended((await engineer.call('POST', `/runs/${first.id}/failed-again`)).body.id);
    expect(again).toMatchObject({ state: 'done', comparison: { counts: { new: 1, changed: 1, gone: 0, back: 0 } } });
    expect(again.notCovered).toEqual({ count: 1, paths: ['good.csv'] });
    expect((await engineer.call('POST', `/runs/${again.id}/failed-again`)).body.code).toBe('nothing-failed');
    const left = (await engineer.call('GET', `/sources/${source.id}`)).body;
    expect((await engineer.call('DELETE', `/sources/${source.id}?assets=${left.assets}`)).status).toBe(204);
    rmSync(folder, { recursive: true });
  });
});

describe('two runs of a source', () => {
  it('are compared over all runs between them', async () => {
    const folder = mkdtempSync(join(process.env.IDREL_TEST_DEMO ?? '', 'compared-'));
    const domainId = (await engineer.call('GET', '/domains')).body[0].id;
    const source = (
      await engineer.call('POST', '/sources', { name: 'Compared', kind: 'folder', address: { path: folder }, domainId })
    ).body;
    const write = (name: string, header: string) =>
      writeFileSync(join(folder, name), `${header}\n${header.replace(/[^,]+/g, '1')}\n`);
    const scan = async () => {
      const { id } = (await engineer.call('POST', `/sources/${source.id}/runs`)).body;
      await expect.poll(async () => (await engineer.call('GET', `/runs/${id}`)).body.endedAt).not.toBeNull();
      return id as string;
    };
    const compare = async (later: string, earlier: string) =>
      (await engineer.call('GET', `/runs/${later}/comparison?with=${earlier}`)).body;
    write('a.csv', 'x,y');
    write('b.csv', 'x');
    const runs = [await scan()];
    write('c.csv', 'z');
    rmSync(join(folder, 'b.csv'));
    runs.push(await scan());
    write('a.csv', 'x,q');
    rmSync(join(folder, 'c.csv'));
    write('d.csv', 'one,two,three');
    runs.push(await scan());
    write('b.csv', 'x');
    runs.push(await scan());
    const [first = '', second = '', third = '', last = ''] = runs;
    const paths = (list: { path: string; columns?: number }[]) =>
      list.map((entry) => [entry.path.split('.').slice(1).join('.'), entry.columns]);
    const whole = await compare(last, first);
    expect(whole.counts).toEqual({ new: 5, changed: 0, gone: 1, back: 0 });
    expect(paths(whole.new)).toEqual([
      ['a.csv.q', undefined],
      ['d.csv', 3],
    ]);
    expect(paths(whole.gone)).toEqual([['a.csv.y', undefined]]);
    expect((await compare(third, second)).counts).toEqual(
      (await engineer.call('GET', `/runs/${third}`)).body.comparison.counts,
    );
    expect(await compare(first, last)).toMatchObject({
      code: 'invalid',
      detail: 'The run to compare with is not the earlier one.',
    });
    const [other] = (await engineer.call('GET', '/sources')).body.filter(
      (entry: { name: string }) => entry.name === 'Booking system',
    );
    expect(await compare(last, other.lastRun.id)).toMatchObject({
      code: 'invalid',
      detail: 'The two are runs of different sources.',
    });
    expect((await analyst.call('GET', `/runs/${last}/comparison?with=${first}`)).status).toBe(404);
    const left = (await engineer.call('GET', `/sources/${source.id}`)).body;
    const all = await engineer.call('DELETE', `/sources/${source.id}?assets=${left.assets}`);
    if (all.status === 409)
      await engineer.call('DELETE', `/sources/${source.id}?assets=${/^(\d+)/.exec(all.body.detail)?.[1]}`);
    rmSync(folder, { recursive: true });
  });
});
