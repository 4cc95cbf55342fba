import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { Webhook as Verifier } from 'standardwebhooks';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { addressesIn, chatOnly, repliesTo } from '../src/exchange/chat.ts';
import { tendNews } from '../src/exchange/news.ts';
import { tellNews, tendNewsOut } from '../src/exchange/newsOut.ts';
import { subscribe } from '../src/exchange/subscriptions.ts';
import { record } from '../src/journal/index.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { type Config, readConfig } from '../src/platform/config.ts';
import type { ApiProblem } from '../src/platform/problems.ts';
import { finderHere, freshDatabase, furnish, personWith, testConfig } from './place.ts';

const address = 'https://idrel.example';
const secret = `whsec_${Buffer.alloc(32, 7).toString('base64')}`;
let place: Awaited<ReturnType<typeof freshDatabase>>;
let made: Awaited<ReturnType<typeof furnish>>;
let finder: ReturnType<typeof finderHere>;
let [admin, ada] = [] as unknown as [Who, Who];
let [shown, hidden] = ['', ''];
let server: Server;
let config: Config;
const came: { text: string; headers: Record<string, string> }[] = [];
let status = 204;
const one = async (sql: string, bind: unknown[] = []) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
const say = (text: string, from = 'ada') => repliesTo(place.db, finder, { address, chat: null }, { from, text });

beforeAll(async () => {
  place = await freshDatabase();
  made = await furnish(place.db);
  admin = (await loadWho(place.db, made.personId)) as Who;
  ada = await personWith(place.db, 'ada', 'reader', made.domainId);
  const elsewhere = await one("insert into domain (name) values ('Crewing') returning id");
  const table = (name: string, domain: string) =>
    one(
      `insert into asset (source_id, domain_id, kind, name, key, depth, description)
       values ($1, $2, 'table', $3, $3, 0, 'What left the quay.') returning id`,
      [made.sourceId, domain, name],
    );
  shown = await table('departure', made.domainId);
  hidden = await table('departure_of_crew', elsewhere);
  finder = finderHere(place.db);
  server = createServer((request, response) => {
    let text = '';
    request.on('data', (chunk: Buffer) => {
      text += chunk.toString();
    });
    request.on('end', () => {
      came.push({ text, headers: request.headers as Record<string, string> });
      response.writeHead(status).end();
    });
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as AddressInfo;
  config = {
    ...testConfig(),
    address,
    mail: null,
    chat: { url: `http://127.0.0.1:${port}/in`, secret, answers: false },
  };
});
afterAll(async () => {
  server?.close();
  await place?.drop();
});

describe('what is written in the chat', () => {
  it('is answered where it asks, with what whoever wrote may see, to them alone', async () => {
    const [reply, ...more] = await say('find departure');
    expect(more).toEqual([]);
    expect(reply).toMatchObject({ only: true, link: `${address}/catalog?filter=departure` });
    expect(reply?.text).toContain('departure (table in Test source): What left the quay.');
    expect(reply?.text).toContain(`${address}/assets/${shown}`);
    expect(reply?.text).not.toContain('crew');
    expect((await say('find name:nothing'))[0]?.text).toContain('Nothing that you may see is found');
    // What cannot be read is told with how to mend it.
    expect((await say('find level>='))[0]?.text).toContain('A value is missing.');
    expect((await say('help'))[0]?.only).toBe(true);
    expect(await say('Good morning, I will find out')).toEqual([]);
  });

  it('has addresses unfolded: to whoever wrote as they may see, to all only what is shown outside', async () => {
    const [card, ...more] = await say(`Look at ${address}/assets/${shown}, it is late`);
    expect(more).toEqual([]);
    expect(card).toMatchObject({ only: true, link: `${address}/assets/${shown}` });
    expect(card?.text).toMatch(
      /^departure\ntable in Test source, .* · unreviewed · no owner.*\nWhat left the quay\.$/s,
    );
    expect((await say(`${address}/assets/${hidden}`)).map(({ text, only }) => [text, only])).toEqual([
      ['There is nothing at this address that you may see.', true],
    ]);
    await place.db.run('update domain set shown_outside = true where id = $1', [made.domainId]);
    const both = await say(`${address}/assets/${shown}`);
    expect(both.map(({ only }) => only)).toEqual([false, true]);
    // What a stranger is shown is shown, whoever pastes the address.
    await place.db.run('update domain set shown_outside = true where name = $1', ['Crewing']);
    const strange = await say(`${address}/assets/${hidden}`);
    expect(strange.map(({ only, text }) => [only, text.split('\n')[0]])).toEqual([[false, 'departure_of_crew']]);
    await place.db.run('update domain set shown_outside = false where name = $1', ['Crewing']);
    await place.db.run('update domain set shown_outside = false where id = $1', [made.domainId]);
  });

  it('is answered nothing of the catalog for who is not known, has left, or is of a partner', async () => {
    const unknown = async () => (await say(`find departure`, 'ada'))[0]?.text;
    expect((await say('find departure', 'eve@example.org'))[0]?.text).toContain('Nobody here has the address');
    await place.db.run('update person set left_at = now() where id = $1', [ada.id]);
    expect(await unknown()).toContain('Nobody here has the address');
    await place.db.run('update person set left_at = null where id = $1', [ada.id]);
    const partner = await one("insert into partner (name) values ('Quayside') returning id");
    await place.db.run('update person set partner_id = $2 where id = $1', [ada.id, partner]);
    expect(await unknown()).toContain('Nobody here has the address');
    await place.db.run('update person set partner_id = null where id = $1', [ada.id]);
  });

  it('is looked at for addresses of this server alone', () => {
    const text = `<${address}/assets/1> (${address}/assets/1). ${address}/at/s/a.b, ${address}.evil.example/assets/2 ${address}/catalog http://other/assets/3`;
    expect(addressesIn(text, address)).toEqual([`${address}/assets/1`, `${address}/at/s/a.b`]);
  });

  it('is taken from the chat that the operator named, and from nobody else', () => {
    const asked = (header: string | undefined, chat: Config['chat'] = config.chat) => {
      let problem: ApiProblem | undefined;
      let passed = false;
      chatOnly({ config: { chat } })({ get: () => header } as never, {} as never, (error?: unknown) => {
        problem = error as ApiProblem | undefined;
        passed = error === undefined;
      });
      return passed || problem?.code;
    };
    expect(asked(`Bearer ${secret}`)).toBe(true);
    for (const header of [undefined, '', 'Bearer ', `Bearer ${secret}x`, secret, 'Bearer undefined'])
      expect(asked(header)).toBe('unknown-chat');
    expect(asked(`Bearer ${secret}`, null)).toBe('unknown-chat');
  });
});

describe('news in the chat', () => {
  it('is signed, sent once, to whom it is for; again where the chat did not take it', async () => {
    await subscribe(place.db, ada, {
      what: 'asset',
      subjectId: shown,
      filter: null,
      below: true,
      pace: 'at once',
      mail: false,
      chat: true,
    });
    await record(
      place.db,
      admin,
      'edited',
      { kind: 'table', id: shown, name: 'departure', domainId: made.domainId },
      { description: 'What left the quay.' },
      { description: 'What left, and when.' },
    );
    await tendNews(place.db);
    await tendNewsOut(place.db, config);
    const jobs = await place.db.rows<{ payload: unknown }>(
      "select payload from graphile_worker._private_jobs j join graphile_worker._private_tasks t on t.id = j.task_id where t.identifier = 'news'",
    );
    expect(jobs.map(({ payload }) => payload)).toEqual([{ personId: ada.id, way: 'chat' }]);
    const tell = () => tellNews(place.db, config, { personId: ada.id, way: 'chat' });
    status = 500;
    await expect(tell()).rejects.toThrow('The chat did not take it.');
    status = 204;
    expect(await tell()).toBe(true);
    expect(await tell()).toBe(false);
    const { text, headers } = came.at(-1) as (typeof came)[number];
    const message = new Verifier(secret).verify(text, headers) as { to: string; text: string };
    expect(message.to).toBe('ada');
    expect(message.text).toContain('description: What left the quay. → What left, and when.');
    expect(message.text).toContain(`${address}/assets/${shown}`);
    // Not by mail: they did not ask for that, and there is none.
    expect(await tellNews(place.db, config, { personId: ada.id, way: 'mail' })).toBe(false);
  });
});

describe('the settings of the chat', () => {
  const env = { DATABASE_URL: 'postgres://u:p@h/d', IDREL_KEY: Buffer.alloc(32, 1).toString('base64') };
  it('need a secret that is one', () => {
    expect(readConfig(env).chat).toBe(null);
    const url = 'https://chat.example.org/in';
    expect(readConfig({ ...env, IDREL_CHAT_URL: url, IDREL_CHAT_SECRET: secret }).chat).toEqual({
      url,
      secret,
      answers: false,
    });
    for (const wrong of [undefined, 'abc', 'whsec_abcd', `whsec_${Buffer.alloc(65).toString('base64')}`])
      expect(() => readConfig({ ...env, IDREL_CHAT_URL: url, IDREL_CHAT_SECRET: wrong })).toThrow(/IDREL_CHAT_SECRET/);
    expect(() => readConfig({ ...env, IDREL_CHAT_URL: 'chat', IDREL_CHAT_SECRET: secret })).toThrow(/IDREL_CHAT_URL/);
  });
});
