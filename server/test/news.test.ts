import type { AddressInfo } from 'node:net';
import type { SubscriptionBody } from '@idrel/contract/exchange';
import { SMTPServer } from 'smtp-server';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { listNews, readNews, tendNews } from '../src/exchange/news.ts';
import { tellNews, tendNewsOut } from '../src/exchange/newsOut.ts';
import { changeSubscription, endSubscription, listSubscriptions, subscribe } from '../src/exchange/subscriptions.ts';
import { record, recordEach } from '../src/journal/index.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { leave } from '../src/people/manage.ts';
import type { Config } from '../src/platform/config.ts';
import { freshDatabase, furnish, personWith, refused, testConfig } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let made: Awaited<ReturnType<typeof furnish>>;
let [below, elsewhere, term] = ['', '', ''];
let [admin, ada] = [] as unknown as [Who, Who];
/** A table of the domain, its column, a table of the domain below, one elsewhere. */
const assets: { id: string; kind: 'table' | 'column'; domainId: string }[] = [];
const one = async (sql: string, bind: unknown[] = []) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
const mails: { to: string; text: string }[] = [];
let fails = false;
let server: SMTPServer;
let config: Config;

beforeAll(async () => {
  place = await freshDatabase();
  made = await furnish(place.db);
  below = await one("insert into domain (name, parent_id) values ('Wake Card', $1) returning id", [made.domainId]);
  elsewhere = await one("insert into domain (name) values ('Crewing') returning id");
  admin = (await loadWho(place.db, made.personId)) as Who;
  ada = await personWith(place.db, 'Ada', 'reader', made.domainId);
  await place.db.run("update person set email = 'ada@example.org' where id = $1", [ada.id]);
  term = await one("insert into term (name, scheme_id) select 'Sailing', id from scheme limit 1 returning id");
  for (const [nth, domainId] of [made.domainId, made.domainId, below, elsewhere].entries())
    assets.push({
      domainId,
      kind: nth === 1 ? 'column' : 'table',
      id: await one(
        'insert into asset (source_id, domain_id, kind, name, key, depth, parent_id) values ($1, $2, $3, $4, $4, $5, $6) returning id',
        [
          made.sourceId,
          domainId,
          nth === 1 ? 'column' : 'table',
          `t${nth}`,
          nth === 1 ? 1 : 0,
          nth === 1 ? assets[0]?.id : null,
        ],
      ),
    });
  server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    onData(stream, session, done) {
      let text = '';
      stream.on('data', (chunk: Buffer) => {
        text += chunk.toString();
      });
      stream.on('end', () => {
        if (fails) return done(new Error('not now'));
        // Lines that were broken for the way are put together again.
        mails.push({
          to: session.envelope.rcptTo[0]?.address ?? '',
          text: text.replace(/=\r\n/g, '').replaceAll('\r', ''),
        });
        done();
      });
    },
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  config = {
    ...testConfig(),
    address: 'https://idrel.example',
    mail: { url: `smtp://127.0.0.1:${(server.server.address() as AddressInfo).port}`, from: 'idrel@example.org' },
  };
});
afterAll(async () => {
  await new Promise<void>((done) => server?.close(done));
  await place?.drop();
});
afterEach(async () => {
  mails.length = 0;
  fails = false;
  await place.db.run('delete from subscription');
  await place.db.run('delete from news');
});

const body = (more: Partial<SubscriptionBody>): SubscriptionBody => ({
  what: 'asset',
  subjectId: null,
  filter: null,
  below: true,
  pace: 'at once',
  mail: false,
  chat: false,
  ...more,
});
const follow = (more: Partial<SubscriptionBody>, who = ada) => subscribe(place.db, who, body(more));
let step = 0;
const told = (nth: number, who: Who = admin) => {
  const { id, kind, domainId } = assets[nth] as (typeof assets)[number];
  step += 1;
  return record(
    place.db,
    who,
    'edited',
    { kind, id, name: `t${nth}`, domainId },
    { description: `says ${step - 1}` },
    { description: `says ${step}` },
  );
};
const subjects = async (who = ada) => {
  await tendNews(place.db);
  return (await listNews(place.db, who, { limit: 50 })).items.map(({ subject }) => subject).reverse();
};

describe('who has themselves told', () => {
  it('of an asset hears of it and of what lies below it, once, and not what they did themselves', async () => {
    await told(0);
    await follow({ subjectId: assets[0]?.id ?? '' });
    await follow({ what: 'domain', subjectId: made.domainId });
    await told(0);
    await told(1);
    await told(1, ada);
    await told(3);
    expect(await subjects()).toEqual(['t0', 't1']);
    const { items, unread } = await listNews(place.db, ada, { limit: 50 });
    expect(unread).toBe(2);
    expect(items[0]).toMatchObject({
      action: 'edited',
      kind: 'column',
      person: admin.name,
      domain: expect.any(String),
      unread: true,
    });
    expect(items[0]?.after).toEqual({ description: expect.stringMatching(/^says /) });
    await tendNews(place.db);
    expect(await subjects()).toHaveLength(2);
  });

  it('of an asset alone hears nothing of what lies below it', async () => {
    await follow({ subjectId: assets[0]?.id ?? '', below: false });
    await told(1);
    await told(0);
    expect(await subjects()).toEqual(['t0']);
  });

  it('of a domain hears of those below it, and of what hangs on assets there', async () => {
    await follow({ what: 'domain', subjectId: made.domainId });
    await told(2);
    const discussion = await one(
      'insert into discussion (id, asset_id, question) values (gen_random_uuid(), $1, true) returning id',
      [assets[2]?.id],
    );
    await record(place.db, admin, 'begun', { kind: 'discussion', id: discussion, name: 't2', domainId: below }, null, {
      text: 'Which?',
    });
    expect(await subjects()).toEqual(['t2', 't2']);
    await place.db.run('delete from news');
    await place.db.run('delete from subscription');
    await follow({ subjectId: assets[2]?.id ?? '' });
    await record(
      place.db,
      admin,
      'answered',
      { kind: 'discussion', id: discussion, name: 't2', domainId: below },
      null,
      { text: 'This.' },
    );
    expect(await subjects()).toEqual(['t2']);
  });

  it('of a search hears of assets that it finds then, and of a term', async () => {
    await follow({ what: 'search', filter: 'name:t2' });
    await follow({ what: 'term', subjectId: term });
    for (const nth of [0, 1, 2, 3]) await told(nth);
    await record(
      place.db,
      admin,
      'edited',
      { kind: 'term', id: term, name: 'Sailing', domainId: null },
      { definition: 'a' },
      { definition: 'b' },
    );
    expect(await subjects()).toEqual(['t2', 'Sailing']);
  });

  it('hears what they may see, at the time and when they read it', async () => {
    await follow({ what: 'search', filter: 'name:t3 or name:t0' });
    await told(3);
    await told(0);
    expect(await subjects()).toEqual(['t0']);
    await place.db.run('delete from role_grant where person_id = $1', [ada.id]);
    const narrowed = (await loadWho(place.db, ada.id)) as Who;
    expect(await listNews(place.db, narrowed, { limit: 50 })).toEqual({ items: [], unread: 0, next: null });
    await told(0);
    expect(await subjects(narrowed)).toEqual([]);
    await place.db.run("insert into role_grant (person_id, role, domain_id) values ($1, 'reader', $2)", [
      ada.id,
      made.domainId,
    ]);
    expect(await subjects()).toEqual(['t0']);
  });

  it('daily or weekly hears in the morning; sooner when they say so', async () => {
    const daily = await follow({ subjectId: assets[0]?.id ?? '', pace: 'daily', mail: true });
    const weekly = await follow({ subjectId: assets[2]?.id ?? '', pace: 'weekly' });
    await told(0);
    await told(2);
    expect(await subjects()).toEqual([]);
    const due = await place.db.rows<{ hours: number; hour: number; day: number; mails: boolean }>(`
      select
        extract(epoch from due_at - now())::float8 / 3600 as hours, extract(hour from due_at)::int as hour,
        extract(isodow from due_at)::int as day, mail_at is not null as mails
      from news
      order by id`);
    expect(due.map(({ hour }) => hour)).toEqual([7, 7]);
    expect(due.map(({ mails: writes }) => writes)).toEqual([true, false]);
    expect(due[0]?.hours).toBeGreaterThan(0);
    expect(due[0]?.hours).toBeLessThanOrEqual(24);
    expect(due[1]?.day).toBe(1);
    expect(due[1]?.hours).toBeLessThanOrEqual(24 * 7);
    await place.db.transaction((tx) =>
      changeSubscription(tx, ada, daily.id, daily.version, { pace: 'at once', mail: false, chat: false, below: true }),
    );
    expect(await subjects()).toEqual(['t0']);
    expect(await place.db.rows('select from news where mail_at is not null')).toEqual([]);
    await place.db.run("update news set due_at = now() - interval '1 hour' where subscription_id = $1", [weekly.id]);
    expect(await subjects()).toEqual(['t2', 't0']);
  });

  it('reads page by page, and marks what was read', async () => {
    await follow({ what: 'domain', subjectId: made.domainId });
    for (let nth = 0; nth < 7; nth += 1) await told(nth % 2);
    await tendNews(place.db);
    const first = await listNews(place.db, ada, { limit: 3 });
    const second = await listNews(place.db, ada, { limit: 3, before: Number(first.next) });
    const third = await listNews(place.db, ada, { limit: 3, before: Number(second.next) });
    expect(new Set([first, second, third].flatMap(({ items }) => items.map(({ id }) => id))).size).toBe(7);
    expect(third.next).toBe(null);
    await place.db.transaction((tx) => readNews(tx, ada, Number(second.items[0]?.id)));
    expect((await listNews(place.db, ada, { limit: 50 })).items.map(({ unread }) => unread)).toEqual([
      true,
      true,
      true,
      false,
      false,
      false,
      false,
    ]);
    // Nobody marks what is another's.
    await place.db.transaction((tx) => readNews(tx, admin, Number(first.items[0]?.id)));
    expect((await listNews(place.db, ada, { limit: 1 })).unread).toBe(3);
  });

  it('is told of no thing twice, sees no other’s subscriptions, and changes upon what they saw', async () => {
    const mine = await follow({ subjectId: assets[0]?.id ?? '' });
    expect((await refused(follow({ subjectId: assets[0]?.id ?? '' })))?.code).toBe('name-taken');
    expect((await refused(follow({ subjectId: assets[3]?.id ?? '' })))?.status).toBe(404);
    expect((await refused(follow({ what: 'domain', subjectId: elsewhere })))?.status).toBe(404);
    expect((await refused(follow({ what: 'search', filter: null })))?.code).toBe('invalid');
    expect((await refused(follow({ what: 'term', subjectId: null })))?.code).toBe('invalid');
    expect((await refused(follow({ what: 'search', filter: 'level>=' })))?.status).toBe(422);
    expect((await listSubscriptions(place.db, config, admin)).items).toEqual([]);
    const how = { pace: 'weekly' as const, mail: true, chat: true, below: false };
    const change = (who: Who, version: number) =>
      place.db.transaction((tx) => changeSubscription(tx, who, mine.id, version, how));
    expect((await refused(change(admin, mine.version)))?.status).toBe(404);
    const changed = await change(ada, mine.version);
    expect(changed).toMatchObject({ ...how, name: 't0' });
    expect((await refused(change(ada, mine.version)))?.status).toBe(412);
    expect((await refused(place.db.transaction((tx) => endSubscription(tx, admin, mine.id))))?.status).toBe(404);
    await place.db.transaction((tx) => endSubscription(tx, ada, mine.id));
    expect((await listSubscriptions(place.db, config, ada)).items).toEqual([]);
  });

  it('is told nothing any more once they have left', async () => {
    const goes = await personWith(place.db, 'Gro', 'reader', made.domainId);
    await follow({ what: 'domain', subjectId: made.domainId }, goes);
    await told(0);
    await tendNews(place.db);
    await place.db.transaction((tx) => leave(tx, admin, [], goes.id, { to: null, seen: 0 }));
    await told(0);
    await tendNews(place.db);
    expect(await place.db.rows('select from news')).toEqual([]);
  });

  it('hears all of it once, however often it is begun and broken off in the middle', async () => {
    await follow({ what: 'domain', subjectId: made.domainId });
    const many = 1600;
    await place.db.transaction((tx) =>
      recordEach(
        tx,
        admin,
        Array.from({ length: many }, (_, nth) => ({
          action: 'edited',
          subject: { kind: 'table' as const, id: assets[0]?.id ?? '', name: 't0', domainId: made.domainId },
          before: { description: `${nth}` },
          after: { description: `${nth + 1}` },
        })),
      ),
    );
    // Two workers beside each other, and connections that are cut.
    const cut = setInterval(
      () =>
        void place.db
          .run(
            "select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and query like '%insert into news%' and pid <> pg_backend_pid()",
          )
          .catch(() => undefined),
      40,
    );
    for (let nth = 0; nth < 6; nth += 1) await Promise.allSettled([tendNews(place.db), tendNews(place.db)]);
    clearInterval(cut);
    await tendNews(place.db);
    expect((await place.db.one<{ n: number }>('select count(*)::int as n from news'))?.n).toBe(many);
  });
});

describe('mail of what came', () => {
  const dueNow = () => place.db.run("update news set mail_at = now() - interval '1 second' where mail_at is not null");
  const jobs = async () =>
    (await place.db.rows("select from graphile_worker.jobs where task_identifier = 'news'")).length;
  const send = () => tellNews(place.db, config, { personId: ada.id, way: 'mail' });

  it('says what changed from what to what, by whom, with the way there, and is sent once', async () => {
    await follow({ subjectId: assets[0]?.id ?? '', mail: true });
    await told(0);
    await tendNews(place.db);
    expect(await send()).toBe(false);
    await dueNow();
    await tendNewsOut(place.db, config);
    await tendNewsOut(place.db, config);
    expect(await jobs()).toBe(1);
    await place.db.run('delete from graphile_worker._private_jobs');
    fails = true;
    await expect(send()).rejects.toThrow();
    expect(mails).toEqual([]);
    fails = false;
    expect(await send()).toBe(true);
    expect(await send()).toBe(false);
    const [mail] = mails;
    expect(mail?.to).toBe('ada@example.org');
    expect(mail?.text).toContain('Subject: t0: edited');
    expect(mail?.text).toContain(`edited, by ${admin.name}`);
    expect(mail?.text).toContain(`https://idrel.example/assets/${assets[0]?.id}`);
    await tendNewsOut(place.db, config);
    expect(await jobs()).toBe(0);
  });

  it('puts together what was done to many, and says nothing of what they may see no more', async () => {
    await follow({ what: 'domain', subjectId: made.domainId, mail: true });
    await place.db.transaction((tx) =>
      recordEach(
        tx,
        admin,
        Array.from({ length: 40 }, (_, nth) => ({
          action: 'tagged',
          subject: {
            kind: 'table' as const,
            id: assets[nth % 2 === 0 ? 0 : 2]?.id ?? '',
            name: `n${nth}`,
            domainId: made.domainId,
          },
          before: { tags: [] },
          after: { tags: ['gold'] },
        })),
      ),
    );
    await told(2);
    await tendNews(place.db);
    await dueNow();
    await send();
    expect(mails).toHaveLength(1);
    expect(mails[0]?.text).toContain('41 changes of what you follow');
    mails.length = 0;
    await told(0);
    await tendNews(place.db);
    await dueNow();
    await place.db.run('delete from role_grant where person_id = $1', [ada.id]);
    expect(await send()).toBe(false);
    await place.db.run("insert into role_grant (person_id, role, domain_id) values ($1, 'reader', $2)", [
      ada.id,
      made.domainId,
    ]);
    expect(mails).toEqual([]);
  });
});
