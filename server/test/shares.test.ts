import type { AddressInfo } from 'node:net';
import type { ShareBody } from '@idrel/contract/access';
import type { PartnerAnswer } from '@idrel/contract/people';
import pg from 'pg';
import { pino } from 'pino';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openClients } from '../src/access/clients/server.ts';
import { readableBy, readersOf } from '../src/access/lists.ts';
import { changePolicy, createPolicy, listPolicies, removePolicy } from '../src/access/policies.ts';
import { listItems } from '../src/access/reviews/read.ts';
import { decideRight, startReview } from '../src/access/reviews/service.ts';
import { whyGone } from '../src/access/runQuery.ts';
import { letterOf } from '../src/access/shares/mails.ts';
import { listShares, readShare } from '../src/access/shares/read.ts';
import { answerShare, changeShare, endShare, offerShare, shareEffect } from '../src/access/shares/service.ts';
import { sharedTables, sharedWith } from '../src/access/shares/theirs.ts';
import { makeClientKey } from '../src/people/clientKeys.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { addGroup, changeGroup, changePerson, getPerson } from '../src/people/manage.ts';
import { addPartner, addPartnerPerson, endPartnerPerson, listPartners } from '../src/people/partners.ts';
import type { Config } from '../src/platform/config.ts';
import { ApiProblem } from '../src/platform/problems.ts';
import { Signals } from '../src/platform/signals.ts';
import { executeRun } from '../src/scanning/index.ts';
import {
  addPolicy,
  freshDatabase,
  furnish,
  personWith,
  postgresSource,
  refused,
  testConfig,
  urlOf,
  withClient,
} from './place.ts';

/** What is offered to an organisation: who reads what of it, how, and that it is over at once. */
const system = `shares_${process.pid}`;
const SCHEMA = `
  create schema port;
  create table port.call (id int primary key, harbour text, ship text, email text, secret text);
  insert into port.call select i, case when i % 2 = 0 then 'Marrick' else 'HIDDENharbour' end, 'ship ' || i, 'HIDDEN' || i || '@example.org', 'SECRET' from generate_series(1, 40) i;
  create table port.fee (call_id int, amount int);
  insert into port.fee select i, i * 10 from generate_series(1, 40) i;
  create table port.crew (name text);
  insert into port.crew values ('HIDDENcrew');
  create table port.tide as select i as n, repeat('x', 200) as filling from generate_series(1, 300000) i`;

let place: Awaited<ReturnType<typeof freshDatabase>>;
let config: Config;
let open: NonNullable<Awaited<ReturnType<typeof openClients>>>;
let signals: Signals;
let port: number;
let petra: Who;
let marrick: PartnerAnswer;
let ines: Who;
let inesKey: string;
let sourceId: string;
const ids = new Map<string, string>();
const id = (name: string) => ids.get(name) ?? '';
const who = async (personId: string) => (await loadWho(place.db, personId)) as Who;
const keyOf = async (of: Who) =>
  (await place.db.transaction((tx) => makeClientKey(tx, of, { name: 'here', days: 2 }))).key;
const offered = (more: Partial<ShareBody> = {}): ShareBody => ({
  partnerId: marrick.id,
  name: 'Calls at Marrick',
  note: 'For the planning of berths.',
  assetIds: [id('call')],
  columns: ['secret'],
  columnsBut: true,
  masked: { mask: { kind: 'partial', first: 1, last: 0 }, columns: ['email'], columnsBut: false },
  rows: { column: 'harbour', values: ['Marrick'] },
  until: null,
  ...more,
});
const offer = (more: Partial<ShareBody> = {}) => place.db.transaction((tx) => offerShare(tx, petra, offered(more)));
const answer = (
  shareId: string,
  localName: string | null,
  by = ines,
  decision: 'accepted' | 'declined' | 'given back' = 'accepted',
) =>
  place.db.transaction(async (tx) => {
    const row = await tx.one<{ version: number }>('select version from share where id = $1', [shareId]);
    return answerShare(tx, by, shareId, row?.version ?? 0, { decision, localName, text: '' });
  });
const end = (shareId: string) => place.db.transaction((tx) => endShare(tx, petra, shareId, 'The berths are planned.'));
const add = (name: string, partner = marrick, by = petra, leads = false) =>
  place.db.transaction((tx) =>
    addPartnerPerson(tx, config, by, {
      partnerId: partner.id,
      name,
      email: `${name.toLowerCase()}@partner.example`,
      leads,
    }),
  );

beforeAll(async () => {
  place = await freshDatabase();
  const { db } = place;
  config = { ...testConfig(), host: '127.0.0.1', clients: { port: 0, tls: null }, mail: null } as Config;
  const { domainId } = await furnish(db);
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) => client.query(SCHEMA));
  sourceId = await postgresSource(db, { name: 'Harbour', domainId, database: system, key: config.key });
  const run = await db.one<{ id: string }>(
    'insert into scan_run (source_id, options) values ($1, \'{"sample": false}\') returning id',
    [sourceId],
  );
  await executeRun(db, config, run?.id ?? '');
  for (const row of await db.rows<{ id: string; name: string }>(
    "select id, name from asset where source_id = $1 and kind in ('table', 'schema')",
    [sourceId],
  ))
    ids.set(row.name, row.id);
  petra = await personWith(db, 'petra@example.org', 'policy administrator', domainId);
  // What is allowed to everyone is not meant for a partner.
  await addPolicy(db, { name: 'All read all', everyone: true, assetIds: [id('port')] });
  const lead = { name: 'Ines', email: 'ines@partner.example' };
  marrick = await db.transaction((tx) =>
    addPartner(tx, config, petra, { name: 'Marrick Harbour Trust', note: '', lead }),
  );
  ines = await who(marrick.people[0]?.id ?? '');
  inesKey = await keyOf(ines);
  signals = new Signals(place.url);
  await signals.open();
  open = (await openClients({ db, config, log: pino({ level: 'silent' }), signals })) as typeof open;
  port = (open.server.address() as AddressInfo).port;
});
afterAll(async () => {
  await open?.close();
  await signals?.close();
  await place?.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
});

const clientOf = async (database: string, user = 'ines@partner.example', password = inesKey) => {
  const client = new pg.Client({ host: '127.0.0.1', port, user, password, database });
  client.on('error', () => undefined); // told by what fails
  await client.connect();
  return client;
};
const reading = async <T>(database: string, work: (client: pg.Client) => Promise<T>): Promise<T> => {
  const client = await clientOf(database);
  try {
    return await work(client);
  } finally {
    await client.end().catch(() => undefined);
  }
};
const failing = (work: Promise<unknown>) =>
  work.then(
    () => 'nothing failed',
    (error: { code?: string; message: string }) => `${error.code} ${error.message}`,
  );

describe('a share', () => {
  it('is not read before it is accepted, then under the name of the partner, within its limits, and not once it has ended', async () => {
    const share = await offer();
    expect(share).toMatchObject({ state: 'offered', partner: 'Marrick Harbour Trust', source: { name: 'Harbour' } });
    expect(await failing(clientOf('calls'))).toContain('3D000');
    expect(await failing(clientOf(share.id))).toContain('3D000');
    expect(await failing(clientOf('Harbour'))).toContain('3D000');
    // What it would hold can be seen by who is to decide.
    const [table] = await sharedTables(place.db, ines, share.id);
    expect(table).toMatchObject({ schema: 'port', name: 'call', limited: true });
    expect(table?.columns.map(({ name, masked }) => [name, masked !== null])).toEqual([
      ['id', false],
      ['harbour', false],
      ['ship', false],
      ['email', true],
    ]);
    await answer(share.id, 'calls');
    await reading('Calls', async (client) => {
      const { rows, fields } = await client.query('select * from port.call order by id');
      expect(fields.map(({ name }) => name)).toEqual(['id', 'harbour', 'ship', 'email']);
      expect(rows).toHaveLength(20);
      expect(rows[0]).toMatchObject({ id: 2, harbour: 'Marrick', ship: 'ship 2' });
      expect(JSON.stringify(rows)).not.toMatch(/SECRET|IDDEN/);
      // Of all else of the source nothing is there: neither told of as forbidden, nor by its columns.
      for (const sql of ['select * from port.crew', 'select * from port.fee', 'select * from port.nothing'])
        expect(await failing(client.query(sql)), sql).toMatch(/^42P01/);
      const told = await failing(client.query('select secret from port.call'));
      expect(told).not.toMatch(/denied|policy|may not/);
      expect(told.replace('secret', 'nothing')).toBe(await failing(client.query('select nothing from port.call')));
      const shown = await client.query(
        "select table_catalog, table_name, column_name from information_schema.columns where table_schema = 'port' order by ordinal_position",
      );
      expect(
        shown.rows.map(({ table_catalog, table_name, column_name }) =>
          [table_catalog, table_name, column_name].join('.'),
        ),
      ).toEqual(['id', 'harbour', 'ship', 'email'].map((column) => `calls.call.${column}`));
    });
    const { use } = await readShare(place.db, petra, share.id);
    expect(use).toMatchObject({ queries: 1, people: 1, rows: 20 });
    expect(use.days.at(-1)).toBe(1);
    const client = await clientOf('calls');
    const gone = new Promise((resolve) => client.once('end', resolve));
    await end(share.id);
    await gone;
    expect(await failing(clientOf('calls'))).toContain('3D000');
    expect(
      await listPolicies(place.db, petra).then((all) => all.filter(({ shareId }) => shareId === share.id)),
    ).toEqual([]);
    expect((await sharedWith(place.db, ines)).shares[0]).toMatchObject({ state: 'ended', name: 'Calls at Marrick' });
    await expect(sharedTables(place.db, ines, share.id)).rejects.toMatchObject({ status: 404 });
  });

  it('is over in the middle of an answer', async () => {
    const share = await offer({ assetIds: [id('tide')], columns: null, columnsBut: false, masked: null, rows: null });
    await answer(share.id, 'tides');
    const client = await clientOf('tides');
    const { rows } = await client.query('select count(*)::int as n from port.tide');
    expect(rows).toEqual([{ n: 300_000 }]);
    const much = client.query('select a.filling from port.tide a, port.tide b');
    const ended = failing(much);
    await new Promise((resolve) => setTimeout(resolve, 300));
    await end(share.id);
    const after = Date.now();
    expect(await ended).not.toBe('nothing failed');
    expect(Date.now() - after).toBeLessThan(1000);
    expect(await failing(client.query('select 1 from port.tide limit 1'))).not.toBe('nothing failed');
  });

  it('ends by its day, in an open connection too', async () => {
    /** Shares until then, and reads by it: undefined where it was over before the machine had come so far. */
    const readUntil = async (until: string) => {
      const share = await offer({ until });
      try {
        await answer(share.id, 'soon');
        const client = await clientOf('soon');
        const gone = new Promise((resolve) => client.once('end', resolve));
        await client.query('select id from port.call');
        return { share, gone };
      } catch (error) {
        if (Date.now() < Date.parse(until)) throw error;
        return undefined;
      }
    };
    let until = '';
    let read: Awaited<ReturnType<typeof readUntil>>;
    for (let left = 1500; !read; left *= 3) {
      until = new Date(Date.now() + left).toISOString();
      read = await readUntil(until);
    }
    const { share, gone } = read;
    await gone;
    expect(Date.now()).toBeGreaterThanOrEqual(Date.parse(until));
    expect(await failing(clientOf('soon'))).toContain('3D000');
    expect(await readShare(place.db, petra, share.id)).toMatchObject({ state: 'ended' });
    // Its name is free again.
    const next = await offer();
    await answer(next.id, 'soon');
    await reading('soon', async (other) => {
      expect((await other.query('select id from port.call')).rowCount).toBe(20);
    });
    const then = new Date().toISOString();
    await new Promise((resolve) => setTimeout(resolve, 20));
    await end(next.id);
    const named = async (at: string | null) =>
      (await readersOf(place.db, petra, id('call'), at)).people
        .map(({ person }) => person)
        .filter((person) => person.startsWith('Ines'));
    expect(await named(then)).toEqual([`Ines of Marrick Harbour Trust, by share ${next.number}`]);
    expect(await named(null)).toEqual([]);
  });

  it('is changed: from then on it is read within the new limits alone', async () => {
    const share = await offer();
    await answer(share.id, 'changing');
    const client = await clientOf('changing');
    const gone = new Promise((resolve) => client.once('end', resolve));
    const { version } = await readShare(place.db, petra, share.id);
    await place.db.transaction((tx) =>
      changeShare(tx, petra, share.id, version, offered({ columns: ['id'], columnsBut: false, masked: null })),
    );
    await gone;
    await reading('changing', async (other) => {
      expect((await other.query('select * from port.call')).fields.map(({ name }) => name)).toEqual(['id']);
    });
    await expect(
      place.db.transaction((tx) => changeShare(tx, petra, share.id, version, offered())),
    ).rejects.toMatchObject({ code: 'changed-meanwhile' });
    await end(share.id);
    await expect(end(share.id)).rejects.toMatchObject({ code: 'settled-already' });
  });

  it('is held by what protects and denies, whoever it is for, and by nothing that another partner is given', async () => {
    const share = await offer({
      assetIds: [id('call'), id('fee')],
      columns: null,
      columnsBut: false,
      masked: null,
      rows: null,
    });
    await answer(share.id, 'whole');
    const denied = await addPolicy(place.db, {
      name: 'No secrets',
      effect: 'deny',
      everyone: true,
      assetIds: [id('call')],
      columns: ['secret', 'email'],
    });
    await reading('whole', async (client) => {
      const { fields } = await client.query('select * from port.call');
      expect(fields.map(({ name }) => name)).toEqual(['id', 'harbour', 'ship']);
      expect(
        (await client.query('select sum(f.amount)::int as sum from port.call c join port.fee f on f.call_id = c.id'))
          .rows,
      ).toEqual([{ sum: 8200 }]);
    });
    const lead = { name: 'Odd', email: 'odd@other.example' };
    const other = await place.db.transaction((tx) =>
      addPartner(tx, config, petra, { name: 'Other Port', note: '', lead }),
    );
    const odd = await who(other.people[0]?.id ?? '');
    const key = await keyOf(odd);
    expect(await failing(clientOf('whole', 'odd@other.example', key))).toContain('3D000');
    expect(await failing(clientOf(share.id, 'odd@other.example', key))).toContain('3D000');
    expect((await sharedWith(place.db, odd)).shares).toEqual([]);
    await expect(sharedTables(place.db, odd, share.id)).rejects.toMatchObject({ status: 404 });
    await expect(answer(share.id, null, odd, 'given back')).rejects.toMatchObject({ status: 404 });
    await place.db.run('delete from policy where id = $1', [denied]);
    await answer(share.id, null, ines, 'given back');
    expect(await readShare(place.db, petra, share.id)).toMatchObject({ state: 'ended', endedBy: 'Ines' });
  });

  it('is read within its own limits, whatever else is shared of the same table, and counted so', async () => {
    const limited = await offer();
    const whole = await offer({ columns: null, columnsBut: false, masked: null, rows: null });
    await answer(limited.id, 'limited');
    await answer(whole.id, 'all');
    // By a column that is not shared, too.
    const unseen = await offer({ columns: ['secret', 'harbour'] });
    await answer(unseen.id, 'unseen');
    const counts = async (database: string) =>
      reading(database, async (client) => {
        const { rows, fields } = await client.query('select * from port.call');
        return [rows.length, fields.length];
      });
    expect(await counts('limited')).toEqual([20, 4]);
    expect(await counts('all')).toEqual([40, 5]);
    expect(await counts('unseen')).toEqual([20, 3]);
    await end(unseen.id);
    // Who could read it is told for each of the shares.
    const { people } = await readersOf(place.db, petra, id('call'), null);
    expect(
      people
        .filter(({ person }) => person.startsWith('Ines'))
        .map(({ person, plain, masked, limited: rows }) => [person, plain, masked, rows]),
    ).toEqual([
      [`Ines of Marrick Harbour Trust, by share ${limited.number}`, 3, 1, true],
      [`Ines of Marrick Harbour Trust, by share ${whole.number}`, 5, 0, false],
    ]);
    expect((await readableBy(place.db, petra, ines.id, null)).tables.map(({ plain }) => plain).sort()).toEqual([3, 5]);
    await end(limited.id);
    expect(await counts('all')).toEqual([40, 5]);
    await end(whole.id);
  });

  it('is asked about in a review of rights, and held back by one that ends it', async () => {
    const share = await offer();
    await answer(share.id, 'reviewed');
    const review = await place.db.transaction((tx) =>
      startReview(tx, petra, {
        name: 'Who reads outside',
        filter: null,
        endsAt: new Date(Date.now() + 86_400_000).toISOString(),
        rest: 'stays',
      }),
    );
    const { items } = await listItems(place.db, petra, review.id, { which: 'all', offset: 0, limit: 50 });
    const right = items.find(({ subject }) => subject.name === 'Marrick Harbour Trust');
    expect(right).toMatchObject({ policy: `Share ${share.number} with Marrick Harbour Trust`, people: 1 });
    await place.db.transaction((tx) => decideRight(tx, petra, right?.id ?? '', { decision: 'ended', seen: null }));
    expect(await readShare(place.db, petra, share.id)).toMatchObject({ state: 'accepted', heldBack: true });
    const again = await listItems(place.db, petra, review.id, { which: 'decided', offset: 0, limit: 50 });
    const seen = again.items.find(({ id: one }) => one === right?.id)?.decidedAt ?? null;
    await reading('reviewed', async (client) => {
      expect(await failing(client.query('select * from port.call'))).toMatch(/^42P01/);
    });
    await place.db.transaction((tx) => decideRight(tx, petra, right?.id ?? '', { decision: null, seen }));
    expect(await readShare(place.db, petra, share.id)).toMatchObject({ heldBack: false });
    await reading('reviewed', async (client) => {
      expect((await client.query('select * from port.call')).rowCount).toBe(20);
    });
    await end(share.id);
  });

  it('takes one name of a partner once, and is declined with words', async () => {
    const [one, two] = [await offer(), await offer()];
    await answer(one.id, 'same');
    await expect(answer(two.id, 'SAME')).rejects.toMatchObject({ code: 'name-taken' });
    await expect(answer(two.id, null)).rejects.toMatchObject({ code: 'invalid' });
    await answer(two.id, null, ines, 'declined');
    await expect(answer(two.id, 'late')).rejects.toMatchObject({ code: 'settled-already' });
    const states = (await listShares(place.db, petra)).map(({ id: share, state }) => [share, state]);
    expect(states[0]).toEqual([one.id, 'accepted']);
    expect(states).toContainEqual([two.id, 'declined']);
    await end(one.id);
  });

  it('says what cannot be shared, field by field', async () => {
    const said = async (more: Partial<ShareBody>) => refused(offer(more));
    const past = new Date(Date.now() - 1000).toISOString();
    for (const [more, words] of [
      [{ columns: ['nothing'] }, /“nothing”/],
      [{ rows: { column: 'amount', values: ['1'] } }, /port\.call does not have/],
      [{ until: past }, /passed already/],
      [{ columns: null, columnsBut: true }, /left out/],
      [{ masked: { mask: { kind: 'partial', first: 0, last: 0 }, columns: null, columnsBut: false } }, /choose blank/],
    ] as const) {
      const { status, detail } = (await said(more as Partial<ShareBody>)) ?? {};
      expect(status).toBe(422);
      expect(detail).toMatch(words);
    }
    expect(await said({ assetIds: ['6e3f0b0e-0000-4000-8000-000000000000'] })).toMatchObject({ status: 404 });
    const sten = await personWith(place.db, 'sten@example.org', 'reader', petra.domainsAs('reader')[0] ?? '');
    await expect(place.db.transaction((tx) => offerShare(tx, sten, offered()))).rejects.toMatchObject({ status: 403 });
    await expect(readShare(place.db, sten, (await listShares(place.db, petra))[0]?.id ?? '')).rejects.toMatchObject({
      status: 404,
    });
    expect(await listShares(place.db, sten)).toEqual([]);
  });

  it('shows before it is offered what anybody of the partner would read', async () => {
    const effect = await shareEffect(place.db, petra, { shareId: null, draft: offered() });
    expect(effect.tables).toMatchObject([
      { table: 'port.call', before: { plain: 0, masked: 0 }, after: { plain: 3, masked: 1 }, limited: true },
    ]);
    expect(effect.gains).toBe(4);
    expect(effect.rows.every(({ person }) => person === 'Marrick Harbour Trust')).toBe(true);
  });

  it('stands in policies that are changed with it alone; nothing else opens something to a partner', async () => {
    const share = await offer();
    const [policy] = (await listPolicies(place.db, petra)).filter(({ shareId }) => shareId === share.id);
    expect(policy).toMatchObject({ enabled: false });
    const plain = {
      name: 'Mine',
      effect: 'allow' as const,
      everyone: false,
      groupIds: [marrick.groupId],
      personIds: [],
      exceptGroupIds: [],
      assetIds: [id('call')],
      classKeys: [],
      filter: null,
      carried: false,
      columns: null,
      columnsBut: false,
      mask: null,
      rows: null,
      until: null,
      hours: null,
      purposes: [],
      opens: 'read' as const,
      passesOn: false,
      enabled: true,
    };
    const tx = <T>(work: (db: Parameters<Parameters<typeof place.db.transaction>[0]>[0]) => Promise<T>) =>
      place.db.transaction(work);
    await expect(
      tx((db) => changePolicy(db, petra, policy?.id ?? '', policy?.version ?? 0, { ...plain, effect: 'deny' })),
    ).rejects.toMatchObject({ status: 403 });
    await expect(tx((db) => removePolicy(db, petra, policy?.id ?? ''))).rejects.toMatchObject({ status: 403 });
    await expect(tx((db) => createPolicy(db, petra, plain))).rejects.toThrow(/offered to it as a share/);
    await expect(tx((db) => createPolicy(db, petra, { ...plain, groupIds: [], personIds: [ines.id] }))).rejects.toThrow(
      /not there/,
    );
    expect(await tx((db) => createPolicy(db, petra, { ...plain, effect: 'deny' }))).toMatchObject({ effect: 'deny' });
    await place.db.run("delete from policy where name = 'Mine'");
    await end(share.id);
  });
});

describe('an answer that nobody may take any more', () => {
  it('ends with the reason of who ended it', () => {
    const over = new AbortController();
    const both = AbortSignal.any([new AbortController().signal, over.signal]);
    over.abort(new ApiProblem('gone', 'What was shared is not read any more.'));
    expect(whyGone(both).message).toBe('What was shared is not read any more.');
    expect(whyGone(AbortSignal.abort()).message).toBe('The reader went away.');
  });
});

describe('people of a partner', () => {
  it('are added by who gives and by who speaks for it, and ended with all that reads for them', async () => {
    const tor = await add('Tor', marrick, ines);
    expect(tor).toMatchObject({ name: 'Tor', leads: false });
    const him = await who(tor.id);
    expect(him).toMatchObject({ partner: { name: 'Marrick Harbour Trust', leads: false }, grants: [] });
    await expect(add('Una', marrick, him)).rejects.toMatchObject({ status: 403 });
    await expect(add('Tor', marrick, ines)).rejects.toThrow(/somebody has it already/);
    const share = await offer();
    await expect(answer(share.id, 'tors', him)).rejects.toMatchObject({ status: 403 });
    await answer(share.id, 'tors');
    const client = await clientOf('tors', 'tor@partner.example', await keyOf(him));
    expect((await client.query('select id from port.call')).rowCount).toBe(20);
    const gone = new Promise((resolve) => client.once('end', resolve));
    await expect(place.db.transaction((tx) => endPartnerPerson(tx, him, ines.id))).rejects.toMatchObject({
      status: 403,
    });
    await expect(place.db.transaction((tx) => endPartnerPerson(tx, ines, ines.id))).rejects.toMatchObject({
      status: 422,
    });
    await expect(place.db.transaction((tx) => endPartnerPerson(tx, ines, petra.id))).rejects.toMatchObject({
      status: 404,
    });
    await place.db.transaction((tx) => endPartnerPerson(tx, ines, tor.id));
    await gone;
    expect(await who(tor.id)).toBeUndefined();
    // Whom they add again is the same person, with keys made anew.
    expect(await add('Tor', marrick, ines)).toMatchObject({ id: tor.id });
    await expect(
      place.db.transaction((tx) =>
        addPartnerPerson(tx, config, ines, {
          partnerId: marrick.id,
          name: 'Tor',
          email: 'other@partner.example',
          leads: false,
        }),
      ),
    ).rejects.toThrow(/this name already/);
    await place.db.transaction((tx) => endPartnerPerson(tx, ines, tor.id));
    await expect(
      place.db.transaction((tx) =>
        addPartnerPerson(tx, config, ines, {
          partnerId: marrick.id,
          name: 'Ines',
          email: 'tor@partner.example',
          leads: false,
        }),
      ),
    ).rejects.toThrow(/this name already/);
    expect(
      (await listPartners(place.db)).find(({ id: one }) => one === marrick.id)?.people.map(({ name }) => name),
    ).toEqual(['Ines']);
    await end(share.id);
  });

  it('have no role, are in no other group, and answer for nothing', async () => {
    const { db } = place;
    const boss = await personWith(db, 'boss@example.org', 'administrator', null);
    const group = await db.transaction((tx) => addGroup(tx, boss, { name: 'Ours', claim: null, memberIds: [boss.id] }));
    await expect(
      db.transaction((tx) =>
        changeGroup(tx, boss, group.id, group.version, { name: 'Ours', claim: null, memberIds: [boss.id, ines.id] }),
      ),
    ).rejects.toMatchObject({ status: 422 });
    await expect(
      db.transaction((tx) =>
        changeGroup(tx, boss, marrick.groupId, 1, { name: 'Taken', claim: null, memberIds: [boss.id] }),
      ),
    ).rejects.toMatchObject({ status: 403 });
    const person = await getPerson(db, boss, ines.id);
    expect(person).toMatchObject({ partner: 'Marrick Harbour Trust', grants: [] });
    await expect(
      db.transaction((tx) =>
        changePerson(tx, boss, ines.id, person.version, {
          name: 'Ines',
          email: 'ines@partner.example',
          job: '',
          groupIds: [],
          grants: [{ role: 'administrator', domainId: null }],
        }),
      ),
    ).rejects.toMatchObject({ status: 403 });
    // The database itself holds it, whatever is forgotten above it.
    await expect(db.run("insert into role_grant (person_id, role) values ($1, 'reader')", [ines.id])).rejects.toThrow(
      /partner/,
    );
    await expect(
      db.run('insert into group_member (person_id, group_id) values ($1, $2)', [ines.id, group.id]),
    ).rejects.toThrow(/partner/);
    await expect(
      db.run('insert into group_member (person_id, group_id) values ($1, $2)', [boss.id, marrick.groupId]),
    ).rejects.toThrow(/partner/);
    await expect(
      db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [id('call'), ines.id]),
    ).rejects.toThrow();
  });
});

describe('mails about shares', () => {
  it('say to each what concerns them', () => {
    const share = {
      id: 'x',
      number: 3,
      name: 'Calls',
      note: 'For berths.',
      partner: 'Marrick',
      until: '2099-12-31T00:00:00Z',
      answer: 'Thank you.',
      localName: 'calls',
      endedBecause: 'Planned.',
    };
    const told = (why: Parameters<typeof letterOf>[3]) => letterOf('https://idrel.example', 'Ines', share, why);
    expect(told('offered')).toEqual({
      subject: '“Calls” is offered to Marrick',
      text: 'Hello Ines,\n\n“Calls” is offered to Marrick: nothing is read before you accept.\n\nFor berths.\n\nIt ends on 31 December 2099.\n\nSee what it holds, and answer:\nhttps://idrel.example/shared\n',
    });
    expect(told('accepted').text).toContain('Marrick reads “Calls” as “calls”.\n\nThank you.');
    expect(told('ended').text).toContain('Planned.');
    expect(told('given back').subject).toBe('Marrick has given share 3 back');
    expect(told('declined').text).toContain('access?show=shares&share=x');
  });
});
