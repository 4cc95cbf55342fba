import { type ChildProcess, spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { CloudEvent, WebhookBody } from '@idrel/contract/exchange';
import { Webhook as Verifier } from 'standardwebhooks';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { RETRIES, tendWebhooks } from '../src/exchange/sending.ts';
import {
  changeWebhook,
  listWebhooks,
  makeWebhook,
  messagesOf,
  removeWebhook,
  renewSecret,
  resealWebhooks,
  sendAgain,
  sendFrom,
  tryWebhook,
  WEBHOOKS_HELD,
} from '../src/exchange/webhooks.ts';
import { record, recordEach } from '../src/journal/index.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { leave } from '../src/people/manage.ts';
import { keyFor } from '../src/platform/secrets.ts';
import { freshDatabase, furnish, personWith, refused, testConfig } from './place.ts';

const master = randomBytes(32);
const config = { ...testConfig(keyFor(master, 'credentials')), address: 'https://idrel.example' };
let place: Awaited<ReturnType<typeof freshDatabase>>;
let made: Awaited<ReturnType<typeof furnish>>;
let below = '';
let admin: Who;
const assets: { id: string; domainId: string }[] = [];
const one = async (sql: string, bind: unknown[] = []) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';

interface Got {
  readonly headers: IncomingMessage['headers'];
  readonly text: string;
  readonly event: CloudEvent;
}
/** What came, and how it is answered: whoever is told decides. */
let got: Got[] = [];
let answer: (event: CloudEvent) => number | readonly [number, Record<string, string>] = () => 204;
let server: Server;
let address = '';

beforeAll(async () => {
  place = await freshDatabase();
  made = await furnish(place.db);
  below = await one("insert into domain (name, parent_id) values ('Wake Card', $1) returning id", [made.domainId]);
  const elsewhere = await one("insert into domain (name) values ('Crewing') returning id");
  admin = (await loadWho(place.db, made.personId)) as Who;
  for (const [nth, domainId] of [made.domainId, below, elsewhere].entries())
    assets.push({
      domainId,
      id: await one(
        "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'table', $3, $3, 0) returning id",
        [made.sourceId, domainId, `t${nth}`],
      ),
    });
  server = createServer((request: IncomingMessage, response: ServerResponse) => {
    let text = '';
    request.on('data', (chunk: Buffer) => {
      text += chunk.toString();
    });
    request.on('end', () => {
      const event = JSON.parse(text) as CloudEvent;
      const told = answer(event);
      const [status, headers] = typeof told === 'number' ? [told, {}] : told;
      if (status < 300) got.push({ headers: request.headers, text, event });
      response.writeHead(status, headers).end();
    });
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}/hook`;
});
afterAll(async () => {
  server?.close();
  await place?.drop();
});
afterEach(async () => {
  got = [];
  answer = () => 204;
  await place.db.run('delete from webhook');
});

const body = (more: Partial<WebhookBody> = {}): WebhookBody => ({
  name: 'Night shift',
  address,
  kinds: [],
  domainId: null,
  filter: null,
  enabled: true,
  ...more,
});
const make = (more: Partial<WebhookBody> = {}, who = admin) => makeWebhook(place.db, config, who, body(more));
let step = 0;
/** Changes an asset, so that there is an event of it. */
const told = (nth: number, db: Parameters<typeof record>[0] = place.db) => {
  const { id, domainId } = assets[nth] as (typeof assets)[number];
  step += 1;
  return record(
    db,
    admin,
    'edited',
    { kind: 'table', id, name: `t${nth}`, domainId },
    { description: String(step - 1) },
    { description: String(step) },
  );
};
/** So many changes of so many other tables, in turn. */
const many = (changes: number, things: number) =>
  place.db.transaction((tx) =>
    recordEach(
      tx,
      admin,
      Array.from({ length: changes }, (_, nth) => ({
        action: 'edited',
        subject: {
          kind: 'table' as const,
          id: `00000000-0000-4000-8000-${String(nth % things).padStart(12, '0')}`,
          name: `n${nth % things}`,
          domainId: made.domainId,
        },
        before: { description: `${nth - things}` },
        after: { description: `${nth}` },
      })),
    ),
  );
const tend = () => tendWebhooks(place.db, config);
const state = async () => (await listWebhooks(place.db, admin))[0];
/** As if whatever is to be sent again were due. */
const later = () => place.db.run('update webhook_message set next_at = now() where next_at is not null');
const ofTables = () => got.filter(({ event }) => event.data.kind === 'table');

describe('a webhook', () => {
  it('is told what changes from then on, signed so that whoever has the secret can tell, and nobody else', async () => {
    await told(0);
    const { webhook, secret } = await make({ kinds: ['table'] });
    await told(0);
    await tend();
    expect(got.map(({ event }) => [event.type, event.subject, event.data.after])).toEqual([
      ['idrel.table.edited', `table/${assets[0]?.id}`, { description: String(step) }],
    ]);
    const [{ headers, text, event }] = got as [Got];
    expect(headers['webhook-id']).toBe(event.id);
    expect(headers['content-type']).toBe('application/cloudevents+json');
    expect(new Verifier(secret).verify(text, headers as Record<string, string>)).toEqual(event);
    const other = `whsec_${randomBytes(32).toString('base64')}`;
    expect(() => new Verifier(other).verify(text, headers as Record<string, string>)).toThrow('No matching signature');
    expect(() => new Verifier(secret).verify(`${text} `, headers as Record<string, string>)).toThrow();
    expect(await state()).toMatchObject({ id: webhook.id, state: 'well', sent: 1, behind: 0, waiting: 0, dead: 0 });
    // Kept encrypted, and told by nothing.
    expect(JSON.stringify(await place.db.rows('select secret::text from webhook'))).not.toContain(secret.slice(6));
    const journal = JSON.stringify(await place.db.rows("select after from journal where subject_kind = 'webhook'"));
    expect(journal).toContain('127.0.0.1');
    expect([journal.includes('/hook'), journal.includes(secret)]).toEqual([false, false]);
    // Nor its address by what a program is given that reads by a key.
    const [byKey] = await listWebhooks(place.db, admin.byKey({ id: 'k', name: 'reads' }, null));
    expect(byKey?.address).toBe(`${new URL(address).origin}/…`);
  });

  it('is told of what it is narrowed to, and of what its person may see then', async () => {
    await make({ name: 'of a domain', domainId: below, kinds: ['table'] });
    await make({ name: 'of a search', filter: 'name:t2', kinds: ['table'] });
    for (const nth of [0, 1, 2]) await told(nth);
    await tend();
    expect(got.map(({ event }) => event.data.name).sort()).toEqual(['t1', 't2']);
    got = [];
    await place.db.run('delete from webhook');
    const hers = await personWith(place.db, 'Ada', 'administrator', below);
    await make({ name: 'hers', kinds: ['table'] }, hers);
    for (const nth of [0, 1, 2]) await told(nth);
    await tend();
    expect(got.map(({ event }) => event.data.name)).toEqual(['t1']);
    // What they may no longer see, and who administers nothing any more, is told nothing.
    got = [];
    await place.db.run("update role_grant set role = 'reader' where person_id = $1", [hers.id]);
    await told(1);
    await tend();
    expect(got).toEqual([]);
    expect(await state()).toMatchObject({ state: 'off', why: expect.stringContaining('administers nothing any more') });
    await place.db.run("update role_grant set role = 'administrator' where person_id = $1", [hers.id]);
    await tend();
    expect(got.map(({ event }) => event.data.name)).toEqual(['t1']);
  });

  it('whose domain goes is told nothing rather than everything', async () => {
    const gone = await one("insert into domain (name) values ('Gone') returning id");
    const who = (await loadWho(place.db, admin.id)) as Who;
    const { webhook } = await make({ domainId: gone, kinds: ['table'] }, who);
    await place.db.run('delete from domain where id = $1', [gone]);
    await told(0);
    await tend();
    expect(got).toEqual([]);
    expect(await state()).toMatchObject({ state: 'off', why: expect.stringContaining('is gone') });
    // It can be saved as it is, and narrowed otherwise.
    const again = (version: number, domainId: string | null) =>
      place.db.transaction((tx) => changeWebhook(tx, who, webhook.id, version, body({ domainId, kinds: ['table'] })));
    const kept = await again(1, gone);
    expect(kept.domainId).toBe(gone);
    expect((await again(kept.version, null)).state).toBe('well');
  });

  it('gets again what it did not take, and what comes later of the same thing behind it', async () => {
    await make({ kinds: ['table'] });
    let refuses = true;
    answer = (event) => (refuses && event.data.name === 't0' ? 503 : 204);
    for (const nth of [0, 1, 0, 2, 0]) await told(nth);
    await tend();
    expect(ofTables().map(({ event }) => event.data.name)).toEqual(['t1', 't2']);
    expect(await state()).toMatchObject({ state: 'well', waiting: 3, sent: 2, behind: 0 });
    await told(0);
    await tend();
    expect(await state()).toMatchObject({ waiting: 4 });
    const hook = (await state()) as { id: string };
    const waiting = await messagesOf(place.db, admin, hook.id, { dead: false, after: 0, limit: 50 });
    expect(waiting.map(({ tries, problem }) => [tries, problem])).toEqual([
      [1, 'It answers with an error (503).'],
      [0, null],
      [0, null],
      [0, null],
    ]);
    expect(await messagesOf(place.db, admin, hook.id, { dead: true, after: 0, limit: 50 })).toEqual([]);
    refuses = false;
    // It is not due yet.
    await tend();
    expect(got).toHaveLength(2);
    await later();
    for (let nth = 0; nth < 4; nth += 1) await tend();
    const steps = ofTables()
      .filter(({ event }) => event.data.name === 't0')
      .map(({ event }) => Number(event.data.after?.description));
    expect(steps).toHaveLength(4);
    expect(steps).toEqual(steps.toSorted((a, b) => a - b));
    expect(await state()).toMatchObject({ waiting: 0, dead: 0, sent: 6 });
  });

  it('that takes one thing never is sent the rest, and keeps that as dead, to be sent again', async () => {
    await make({ kinds: ['table'] });
    let refuses = true;
    answer = (event) => (refuses && event.data.name === 't0' ? 400 : 204);
    await told(0);
    for (let nth = 0; nth <= RETRIES.length; nth += 1) {
      await tend();
      await later();
      await told(1);
    }
    await tend();
    expect(got.length).toBeGreaterThanOrEqual(RETRIES.length);
    expect(await state()).toMatchObject({ state: 'well', waiting: 0, dead: 1 });
    const { id } = (await state()) as { id: string };
    const [dead] = await messagesOf(place.db, admin, id, { dead: true, after: 0, limit: 50 });
    expect(dead).toMatchObject({ tries: RETRIES.length + 1, problem: 'It answers with an error (400).', nextAt: null });
    // It stands in nobody's way.
    refuses = false;
    got = [];
    await told(0);
    await tend();
    expect(got).toHaveLength(1);
    expect(await place.db.transaction((tx) => sendAgain(tx, admin, id, null))).toEqual({ messages: 1 });
    await tend();
    expect(got).toHaveLength(2);
    expect(await state()).toMatchObject({ dead: 0 });
  });

  it('that takes nothing is asked by single messages until it does; nothing is lost, nothing piles up', async () => {
    await make({ kinds: ['table'] });
    let calls = 0;
    let refuses = true;
    answer = () => {
      calls += 1;
      return refuses ? [429, { 'retry-after': '7200' }] : 204;
    };
    await many(600, 600);
    await tend();
    expect(calls).toBeLessThan(50);
    expect(await state()).toMatchObject({ state: 'unwell', why: 'It answers with an error (429).', waiting: 500 });
    const [first] = await place.db.rows<{ wait: number }>(
      'select extract(epoch from max(next_at) - now())::float8 as wait from webhook_message',
    );
    expect(first?.wait).toBeGreaterThan(7000);
    const before = calls;
    await later();
    await tend();
    expect(calls).toBe(before + 1);
    refuses = false;
    await later();
    while ((await tend()) > 0);
    expect(new Set(got.map(({ event }) => event.id)).size).toBe(600);
    expect(got).toHaveLength(600);
    expect(await state()).toMatchObject({ state: 'well', waiting: 0, sent: 600, since: null });
  });

  it('is turned off when it took nothing for days, and turned on again goes on where it was', async () => {
    await place.db.run("update person set email = 'admin@example.org' where id = $1", [admin.id]);
    const { webhook } = await make({ kinds: ['table'] });
    answer = () => 500;
    await many(6, 6);
    await tend();
    expect(await state()).toMatchObject({ state: 'unwell', waiting: 6 });
    // One that has been tried often enough is no reason by itself: it may be the only one that is not taken.
    const lastTry = () =>
      place.db.run('update webhook_message set tries = $1, next_at = now() where next_at is not null', [
        RETRIES.length,
      ]);
    await lastTry();
    await tend();
    expect(await state()).toMatchObject({ state: 'unwell', waiting: 5, dead: 1 });
    await place.db.run("update webhook_place set unwell_since = now() - interval '61 hours'");
    await lastTry();
    await tend();
    const off = await state();
    expect(off).toMatchObject({
      enabled: false,
      state: 'off',
      why: expect.stringContaining('Nothing was taken for days'),
    });
    expect(await place.db.rows("select from graphile_worker.jobs where task_identifier = 'webhook-off'")).toHaveLength(
      1,
    );
    answer = () => 204;
    await told(0);
    await tend();
    expect(got).toEqual([]);
    await place.db.transaction((tx) =>
      changeWebhook(tx, admin, webhook.id, off?.version ?? 0, body({ kinds: ['table'] })),
    );
    while ((await tend()) > 0);
    expect(got).toHaveLength(5);
    expect(got.at(-1)?.event.data.after).toEqual({ description: String(step) });
    expect(await state()).toMatchObject({ state: 'well', behind: 0, waiting: 0, dead: 2 });
  });

  it('is not stuck where nothing is left by which to ask whether it is over', async () => {
    await make({ kinds: ['table'] });
    answer = () => 500;
    await many(6, 6);
    await tend();
    expect(await state()).toMatchObject({ state: 'unwell', waiting: 6 });
    await place.db.run('delete from webhook_message');
    answer = () => 204;
    await told(0);
    await tend();
    expect(got).toHaveLength(1);
    expect(await state()).toMatchObject({ state: 'well', behind: 0 });
  });

  it('is turned off, and says why, where it could send nothing; others go on', async () => {
    const other = await make({ name: 'other', kinds: ['table'] });
    const { webhook } = await make({ kinds: ['table'] });
    await place.db.run("update webhook set secret = 'x' where id = $1", [webhook.id]);
    await told(0);
    await tend();
    expect(got).toHaveLength(1);
    const hooks = await listWebhooks(place.db, admin);
    expect(hooks.map(({ id, state: now }) => [id, now])).toEqual([
      [webhook.id, 'off'],
      [other.webhook.id, 'well'],
    ]);
    expect(hooks[0]?.why).toContain('Make a new one.');
    expect((await refused(tryWebhook(place.db, config, admin, webhook.id)))?.code).toBe('secret-unreadable');
  });

  it('is turned off by an address that says that it is gone for good', async () => {
    await make({ kinds: ['table'] });
    answer = () => 410;
    await told(0);
    await tend();
    expect(await state()).toMatchObject({ state: 'off', why: expect.stringContaining('gone for good') });
  });

  it('begins at any place that is kept, and says so where one is kept no more', async () => {
    const { webhook } = await make({ kinds: ['table'] });
    await told(0);
    await told(1);
    await tend();
    expect(got).toHaveLength(2);
    const from = Number(got[0]?.event.sequence) - 1;
    const begin = (after: number) => place.db.transaction((tx) => sendFrom(tx, admin, webhook.id, after));
    expect((await begin(from)).after).toBe(from);
    await tend();
    expect(got.map(({ event }) => event.id)).toEqual([0, 1, 0, 1].map((nth) => got[nth]?.event.id));
    expect(got[0]?.event.id).toBe(got[2]?.event.id);
    expect((await refused(begin(9e9)))?.code).toBe('invalid');
    await place.db.run('delete from event where seq <= $1', [from + 1]);
    expect((await refused(begin(from)))?.code).toBe('events-forgotten');
    // One that was off for longer than events are kept goes on with what there is, and the journal says that some are missing.
    await place.db.run('update webhook_place set after = $1', [from]);
    got = [];
    await tend();
    expect(got).toHaveLength(1);
    expect(await place.db.rows("select 1 from journal where action = 'missed events'")).toHaveLength(1);
  });

  it('signs by the old secret beside the new one for as long as was said', async () => {
    const { webhook, secret } = await make({ kinds: ['table'] });
    const renewed = await place.db.transaction((tx) => renewSecret(tx, config, admin, webhook.id, 1));
    expect(renewed.secret).not.toBe(secret);
    expect(await tryWebhook(place.db, config, admin, webhook.id)).toMatchObject({ taken: true, status: 204 });
    const headers = got[0]?.headers as Record<string, string>;
    for (const each of [secret, renewed.secret]) new Verifier(each).verify(got[0]?.text ?? '', headers);
    await place.db.run('update webhook set before_ends_at = now()');
    await tryWebhook(place.db, config, admin, webhook.id);
    expect(() => new Verifier(secret).verify(got[1]?.text ?? '', got[1]?.headers as Record<string, string>)).toThrow();
  });

  it('keeps its secret when the key of the installation is replaced', async () => {
    const { webhook, secret } = await make({ kinds: ['table'] });
    const other = { ...config, key: randomBytes(32) };
    expect(await resealWebhooks(place.db, { key: other.key, keysBefore: [] })).toEqual({
      resealed: 0,
      lost: ['Night shift'],
    });
    const reseal = () => resealWebhooks(place.db, { key: other.key, keysBefore: [randomBytes(32), config.key] });
    expect(await reseal()).toEqual({ resealed: 1, lost: [] });
    expect(await reseal()).toEqual({ resealed: 0, lost: [] });
    await tryWebhook(place.db, other, admin, webhook.id);
    new Verifier(secret).verify(got[0]?.text ?? '', got[0]?.headers as Record<string, string>);
  });

  it('goes nowhere that the operator did not list, whatever its address is called, and is not led on', async () => {
    const tried = async (where: string, networks: readonly string[] = []) => {
      const { webhook } = await make({ address: where, name: where.slice(0, 80) });
      const { problem } = await tryWebhook(place.db, { ...config, callNetworks: networks }, admin, webhook.id);
      return problem;
    };
    const own = 'It lies in a network of your own that is not listed in IDREL_CALL_NETWORKS.';
    for (const host of [
      '127.0.0.1',
      '2130706433',
      '0x7f.1',
      '[::1]',
      '[::ffff:127.0.0.1]',
      '169.254.169.254',
      'localhost',
      '10.0.0.1',
      '[fe80::1]',
    ])
      expect([host, await tried(`https://${host}:9/hook`)]).toEqual([host, own]);
    expect(await tried('http://192.0.2.1:9/hook')).toContain('take https');
    expect(got).toEqual([]);
    answer = () => [302, { location: `${address}/elsewhere` }];
    expect(await tried(address, ['127.0.0.0/8'])).toBe('It leads elsewhere (302), which is not followed.');
    expect(await tried('http://127.0.0.1:1/', ['127.0.0.0/8'])).toBe('Nothing answers at this address.');
  });

  it('is of whoever saved it last; others neither see nor change it, but for administrators of everything', async () => {
    const hers = await personWith(place.db, 'Berit', 'administrator', below);
    const his = await personWith(place.db, 'Carl', 'administrator', below);
    const reader = await personWith(place.db, 'Dag', 'reader', below);
    const { webhook } = await make({ name: 'hers', kinds: ['table'] }, hers);
    expect((await listWebhooks(place.db, his)).length).toBe(0);
    const tries: ((who: Who) => Promise<unknown>)[] = [
      (who) => place.db.transaction((tx) => changeWebhook(tx, who, webhook.id, 1, body())),
      (who) => place.db.transaction((tx) => removeWebhook(tx, who, webhook.id)),
      (who) => place.db.transaction((tx) => renewSecret(tx, config, who, webhook.id, 1)),
      (who) => tryWebhook(place.db, config, who, webhook.id),
      (who) => messagesOf(place.db, who, webhook.id, { dead: true, after: 0, limit: 1 }),
      (who) => place.db.transaction((tx) => sendAgain(tx, who, webhook.id, null)),
      (who) => place.db.transaction((tx) => sendFrom(tx, who, webhook.id, 0)),
    ];
    for (const attempt of tries) expect((await refused(attempt(his)))?.status).toBe(404);
    expect((await refused(make({ name: 'x' }, reader)))?.code).toBe('forbidden');
    expect((await refused(make({ name: 'HERS' }, his)))?.code).toBe('name-taken');
    expect((await refused(make({ name: 'y', domainId: made.domainId }, his)))?.status).toBe(404);
    expect((await refused(make({ name: 'y', kinds: ['tabel'] })))?.code).toBe('invalid');
    expect((await refused(make({ name: 'y', filter: 'kind:' })))?.status).toBe(422);
    // Who takes it over has what they may see sent.
    expect((await listWebhooks(place.db, admin)).map(({ person }) => person)).toEqual(['Berit']);
    const taken = await place.db.transaction((tx) =>
      changeWebhook(tx, admin, webhook.id, 1, body({ name: 'hers', kinds: ['table'] })),
    );
    expect(taken.person).not.toBe('Berit');
    const old = place.db.transaction((tx) => changeWebhook(tx, admin, webhook.id, 1, body({ name: 'older' })));
    expect((await refused(old))?.code).toBe('changed-meanwhile');
    expect(await listWebhooks(place.db, hers)).toEqual([]);
  });

  it('waits for somebody to answer for it when who did leaves', async () => {
    const goes = await personWith(place.db, 'Elin', 'administrator', made.domainId);
    await make({ kinds: ['table'] }, goes);
    await place.db.transaction((tx) => leave(tx, admin, WEBHOOKS_HELD, goes.id, { to: null, seen: 1 }));
    await told(0);
    await tend();
    expect(got).toEqual([]);
    const left = await state();
    expect(left).toMatchObject({ state: 'off', person: null, why: expect.stringContaining('has left') });
    await place.db.transaction((tx) =>
      changeWebhook(tx, admin, left?.id ?? '', left?.version ?? 0, body({ kinds: ['table'] })),
    );
    await tend();
    expect(got).toHaveLength(1);
  });
});

describe('a worker that is killed while it sends', () => {
  const startWorker = (): ChildProcess =>
    spawn(process.execPath, ['server/dist/worker.js'], {
      env: {
        ...process.env,
        DATABASE_URL: place.url,
        IDREL_KEY: master.toString('base64'),
        IDREL_CALL_NETWORKS: '127.0.0.0/8, ::1',
        IDREL_LOG_LEVEL: 'silent',
      },
      stdio: 'ignore',
    });
  const until = async (condition: () => boolean | Promise<boolean>) => {
    while (!(await condition())) await new Promise((resolve) => setTimeout(resolve, 25));
  };

  it('loses nothing, whenever that is, and what it sends twice has the same id', async () => {
    await make({ kinds: ['table'] });
    await many(3000, 100);
    for (const upTo of [100, 700, 1500]) {
      const worker = startWorker();
      await until(() => got.length >= upTo);
      worker.kill('SIGKILL');
      await new Promise((resolve) => worker.once('exit', resolve));
    }
    const last = startWorker();
    await until(async () => (await state())?.behind === 0);
    last.kill('SIGKILL');
    await new Promise((resolve) => last.once('exit', resolve));
    const seen = new Map<string, Got>();
    for (const message of got) {
      const before = seen.get(message.event.id);
      if (before) expect(message.event).toEqual(before.event);
      else seen.set(message.event.id, message);
    }
    expect(seen.size).toBe(3000);
    // Of one thing in order, but for what was sent once more.
    for (const subject of new Set(got.map(({ event }) => event.subject))) {
      const first = [...seen.values()].filter(({ event }) => event.subject === subject);
      const places = first.map(({ event }) => Number(event.sequence));
      expect(places).toEqual(places.toSorted((a, b) => a - b));
    }
  });
});
