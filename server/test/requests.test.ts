import type { AnswerBody, AskBody, GrantBody } from '@idrel/contract/access';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { createPolicy, listPolicies, removePolicy } from '../src/access/policies.ts';
import { changeDeputy, deputyOf } from '../src/access/requests/deputies.ts';
import { mailOfRequest, remindOfRequests } from '../src/access/requests/mails.ts';
import { answerOf, listRequests, precedentsOf, readRequest, waitingRequests } from '../src/access/requests/read.ts';
import {
  answerRequest,
  askForAccess,
  grantEffect,
  seeRequest,
  takeRequestBack,
} from '../src/access/requests/service.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { mailbox } from './mailbox.ts';
import { addPolicy, policyBody, refused } from './place.ts';
import { day, salesPlace } from './sales.ts';

let place: Awaited<ReturnType<typeof salesPlace>>;
let box: Awaited<ReturnType<typeof mailbox>>;
let maud: Who;
let olav: Who;
let rune: Who;
let petra: Who;
let sten: Who;

const id = (name: string): string => place.id(name);
const reads = (who: Pick<Who, 'id'>, table: string, purpose: string | null = null) => place.reads(who, table, purpose);
const owns = (who: Pick<Who, 'id'>, name: string) => place.owns(who, name);
const one = (sql: string, bind: unknown[] = []) => place.one(sql, bind);

beforeAll(async () => {
  box = await mailbox();
});
afterAll(() => box.close());
beforeEach(async () => {
  box.mails.length = 0;
  place = await salesPlace();
  ({ maud, olav, rune, petra, sten } = place);
});
afterEach(() => place.drop());

const ask = (who: Who, names: readonly string[], more: Partial<AskBody> = {}) =>
  place.db.transaction((tx) =>
    askForAccess(tx, who, {
      assetIds: names.map(id),
      columns: null,
      purpose: 'Complaint',
      note: '',
      until: null,
      ...more,
    }),
  );
const askOne = async (who: Who, names: readonly string[], more: Partial<AskBody> = {}) => {
  const [request] = await ask(who, names, more);
  if (!request) throw new Error('nothing was asked');
  return request;
};
const granting = (names: readonly string[], more: Partial<GrantBody> = {}): GrantBody => ({
  assetIds: names.map(id),
  columns: null,
  columnsBut: false,
  until: null,
  stated: false,
  masked: null,
  ...more,
});
const answer = async (who: Who, requestId: string, body: Partial<AnswerBody> & Pick<AnswerBody, 'decision'>) => {
  const { version } = await readRequest(place.db, who, requestId);
  return place.db.transaction((tx) => answerRequest(tx, who, requestId, version, { text: '', grant: null, ...body }));
};
const grant = (who: Who, requestId: string, body: GrantBody) =>
  answer(who, requestId, { decision: 'granted', grant: body });
const listed = async (who: Who, which: 'own' | 'waiting' | 'answered' | 'granted', more: object = {}) =>
  (await listRequests(place.db, who, { which, limit: 50, ...more } as never)).items.map(({ number }) => number);
const waits = async (who: Who) =>
  (await waitingRequests(place.db, who, 20)).items.map(({ why, request }) => `${why} ${request.number}`);
const NOTHING = { guest_id: 'refused', email: 'refused', port: 'refused' };
const ALL = { guest_id: 'plain', email: 'plain', port: 'plain' };

describe('a request', () => {
  it('waits for the owner, is granted, and is read by until it is ended', async () => {
    const request = await askOne(olav, ['guest'], { until: day(30), note: 'Three letters came in' });
    expect(request).toMatchObject({ state: 'waiting', mine: true, mayAnswer: false, hidden: 0 });
    expect(request.answerers.map(({ name }) => name)).toEqual(['Maud']);
    expect(await reads(olav, 'guest')).toEqual(NOTHING);
    expect(await waits(maud)).toEqual([`answer ${request.number}`]);
    expect(await listed(maud, 'waiting')).toEqual([request.number]);

    const granted = await grant(maud, request.id, granting(['guest'], { until: day(10) }));
    expect(granted).toMatchObject({ state: 'granted', answeredBy: 'Maud', answeredFor: null });
    expect(granted.assets).toMatchObject([{ path: 'sales.guest', granted: true }]);
    expect(await reads(olav, 'guest')).toEqual(ALL);
    expect(await reads(rune, 'guest')).toEqual(NOTHING);
    expect(await waits(maud)).toEqual([]);
    expect(await waits(olav)).toEqual([`answered ${request.number}`]);
    // The grant is a policy that carries the request.
    expect((await listPolicies(place.db, petra)).map(({ name, requestId }) => [name, requestId])).toEqual([
      [`Request ${request.number} of Olav`, request.id],
    ]);

    await answer(maud, request.id, { decision: 'ended', text: 'The letters are answered' });
    expect(await reads(olav, 'guest')).toEqual(NOTHING);
    expect(await listPolicies(place.db, petra)).toEqual([]);
    expect((await readRequest(place.db, olav, request.id)).state).toBe('ended');
    // Whoever read by it is told, and ends what is theirs without being told.
    expect(await waits(olav)).toEqual([`answered ${request.number}`]);
    const told = await place.db.rows<{ action: string }>(
      "select action from journal where subject_kind in ('request', 'policy') order by id",
    );
    expect(told.map(({ action }) => action)).toEqual(['asked', 'granted', 'granted', 'ended', 'ended']);
  });

  it('is nobody else’s to see or to answer', async () => {
    const request = await askOne(olav, ['guest']);
    for (const who of [rune, sten]) {
      expect(await refused(readRequest(place.db, who, request.id))).toMatchObject({ code: 'not-found' });
      expect(await listed(who, 'waiting')).toEqual([]);
    }
    // Nobody answers what they asked for themselves, not even who administers the policies.
    const own = await askOne(petra, ['guest']);
    expect(await refused(grant(petra, own.id, granting(['guest'])))).toMatchObject({
      code: 'forbidden',
      detail: 'Nobody answers what they asked for themselves.',
    });
    expect(await refused(grant(olav, request.id, granting(['guest'])))).toMatchObject({ code: 'forbidden' });
    expect(await reads(olav, 'guest')).toEqual(NOTHING);
    await grant(petra, request.id, granting(['guest']));
    expect(await reads(olav, 'guest')).toEqual(ALL);
  });

  it('is granted in part, masked, and for the purpose that it names', async () => {
    const request = await askOne(olav, ['guest', 'fare']);
    // Nobody owns the fares: what different people answer for becomes several requests.
    expect((await listed(olav, 'own')).length).toBe(2);
    expect(request.assets.map(({ path }) => path)).toEqual(['sales.fare']);
    const guests = (await listRequests(place.db, maud, { which: 'waiting', limit: 50 })).items[0];
    if (!guests) throw new Error('none waits');

    await grant(maud, guests.id, granting(['guest'], { columns: ['guest_id', 'port'] }));
    expect(await reads(olav, 'guest')).toEqual({ guest_id: 'plain', email: 'refused', port: 'plain' });

    await grant(
      maud,
      guests.id,
      granting(['guest'], { masked: { mask: { kind: 'blank' }, columns: ['guest_id'], columnsBut: true } }),
    );
    expect(await reads(olav, 'guest')).toEqual({ guest_id: 'plain', email: 'masked', port: 'masked' });

    await grant(maud, guests.id, granting(['guest'], { stated: true }));
    expect(await reads(olav, 'guest')).toEqual(NOTHING);
    expect(await reads(olav, 'guest', 'Complaint')).toEqual(ALL);

    // An answer is taken back as if it had not been given.
    await answer(maud, guests.id, { decision: 'waiting' });
    expect(await reads(olav, 'guest', 'Complaint')).toEqual(NOTHING);
    expect(await listed(maud, 'waiting')).toEqual([guests.number]);
  });

  it('opens nothing that a policy keeps', async () => {
    await addPolicy(place.db, { name: 'No e-mail', effect: 'deny', everyone: true, assetIds: [id('email')] });
    await addPolicy(place.db, {
      name: 'Ports hidden',
      effect: 'protect',
      everyone: true,
      assetIds: [id('port')],
      mask: { kind: 'blank' },
    });
    const request = await askOne(olav, ['guest']);
    const effect = await grantEffect(place.db, maud, request.id, granting(['guest']));
    await grant(maud, request.id, granting(['guest']));
    expect(await reads(olav, 'guest')).toEqual({ guest_id: 'plain', email: 'refused', port: 'masked' });
    expect(effect.kept).toEqual([{ policy: 'No e-mail', columns: 1 }]);
    expect(new Set(effect.tables[0]?.columns)).toEqual(new Set(['guest_id', 'email', 'port']));
    expect(effect.tables).toMatchObject([
      {
        table: 'sales.guest',
        before: { plain: 0, masked: 0 },
        after: { plain: 1, masked: 1 },
      },
    ]);
  });

  it('tells before it is granted what would be read, and saves nothing', async () => {
    const request = await askOne(olav, ['guest']);
    const effect = await grantEffect(place.db, maud, request.id, granting(['guest']));
    expect(effect).toMatchObject({ total: 1, gains: 3, sensitive: 1, kept: [] });
    expect(effect.rows[0]).toMatchObject({ column: 'email', level: 3, before: 'refused', after: 'plain' });
    const masked = await grantEffect(
      place.db,
      maud,
      request.id,
      granting(['guest'], {
        masked: { mask: { kind: 'digest', keyed: 'installation' }, columns: ['email'], columnsBut: false },
      }),
    );
    expect(masked).toMatchObject({ gains: 3, sensitive: 0 });
    expect(await reads(olav, 'guest')).toEqual(NOTHING);
    expect(await refused(grantEffect(place.db, olav, request.id, granting(['guest'])))).toMatchObject({
      code: 'forbidden',
    });
  });

  it('is refused with a reason, and answered anew', async () => {
    const request = await askOne(olav, ['guest']);
    expect(await refused(answer(maud, request.id, { decision: 'refused' }))).toMatchObject({ code: 'invalid' });
    await answer(maud, request.id, { decision: 'refused', text: 'Ask for the report instead' });
    expect(await readRequest(place.db, olav, request.id)).toMatchObject({
      state: 'refused',
      answer: 'Ask for the report instead',
    });
    await grant(maud, request.id, granting(['guest']));
    expect(await reads(olav, 'guest')).toEqual(ALL);
  });

  it('grants no more than was asked for', async () => {
    const request = await askOne(olav, ['guest'], { columns: ['guest_id', 'port'] });
    const odd: [GrantBody, string][] = [
      [granting(['fare']), 'names something that was not asked for'],
      [granting(['guest']), 'opens more than was asked for'],
      [granting(['guest'], { columns: ['email'] }), 'opens more than was asked for'],
      [granting(['guest'], { columns: ['email'], columnsBut: true }), 'opens more than was asked for'],
      [granting(['guest'], { columns: ['port'], until: day(-1) }), 'has passed already'],
    ];
    for (const [body, why] of odd)
      expect(await refused(grant(maud, request.id, body))).toMatchObject({
        code: 'invalid',
        detail: expect.stringContaining(why),
      });
    await grant(maud, request.id, granting(['guest'], { columns: ['port'] }));
    expect(await reads(olav, 'guest')).toEqual({ guest_id: 'refused', email: 'refused', port: 'plain' });
  });

  it('says what is wrong with it', async () => {
    await place.asset('flow', 'nightly', null);
    const bad: [() => Promise<unknown>, object][] = [
      [() => ask(olav, ['nightly']), { code: 'invalid', detail: expect.stringContaining('“nightly” is a flow') }],
      [() => ask(olav, ['guest'], { until: day(-1) }), { code: 'invalid' }],
      [() => ask(olav, ['sales'], { columns: ['email'] }), { code: 'invalid' }],
      [
        () => ask(olav, ['guest'], { columns: ['nothing'] }),
        { code: 'invalid', detail: expect.stringContaining('“nothing”') },
      ],
      [() => ask(sten, ['guest']), { code: 'not-found' }],
    ];
    for (const [work, how] of bad) expect(await refused(work())).toMatchObject(how);
    await ask(olav, ['guest']);
    expect(await refused(ask(olav, ['fare', 'guest']))).toMatchObject({
      code: 'asked-already',
      detail: expect.stringContaining('“guest”'),
    });
  });

  it('is made once by two clicks, and answered by the first of two', async () => {
    const twice = await Promise.allSettled([ask(olav, ['guest']), ask(olav, ['guest'])]);
    expect(twice.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    const [number] = await listed(olav, 'own');
    expect(await listed(olav, 'own')).toHaveLength(1);
    const waiting = (await listRequests(place.db, maud, { which: 'waiting', limit: 50 })).items[0];
    if (!waiting) throw new Error('none');
    expect(waiting.number).toBe(number);
    const answers = await Promise.allSettled(
      [maud, petra].map((who) =>
        place.db.transaction((tx) =>
          answerRequest(tx, who, waiting.id, waiting.version, {
            decision: 'granted',
            text: '',
            grant: granting(['guest']),
          }),
        ),
      ),
    );
    expect(answers.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await listPolicies(place.db, petra)).toHaveLength(1);
  });

  it('is taken back by whoever made it as long as it waits', async () => {
    const request = await askOne(olav, ['guest']);
    const take = (who: Who) => refused(place.db.transaction((tx) => takeRequestBack(tx, who, request.id)));
    expect(await take(rune)).toMatchObject({ code: 'not-found' });
    expect(await take(maud)).toMatchObject({ code: 'forbidden' });
    expect(await take(olav)).toBeUndefined();
    expect(await take(olav)).toMatchObject({ code: 'settled-already' });
    expect(await refused(grant(maud, request.id, granting(['guest'])))).toMatchObject({ code: 'invalid' });
    await ask(olav, ['guest']);
  });
});

describe('who answers', () => {
  it('is the owner of what it lies in, the members of a group, or whoever answers for the domain', async () => {
    const group = await one("insert into person_group (name) values ('Revenue') returning id");
    await place.db.run('insert into group_member (group_id, person_id) values ($1, $2)', [group, rune.id]);
    await owns({ id: group }, 'sales');
    const request = await askOne(olav, ['fare']);
    expect(request.answerers).toMatchObject([{ name: 'Revenue', group: true }]);
    expect(await waits(rune)).toEqual([`answer ${request.number}`]);
    await grant(rune, request.id, granting(['fare']));
    expect(await reads(olav, 'fare')).toEqual({ amount: 'plain' });

    await place.db.run("delete from asset_person where role = 'owner'");
    const other = await askOne(olav, ['guest']);
    expect(other.answerers).toEqual([]);
    // Where nobody answers, it waits for policy administrators.
    expect(await waits(petra)).toEqual([`answer ${other.number}`]);
    await place.db.run('update domain set owner_id = $1 where id = $2', [rune.id, place.domainId]);
    expect((await readRequest(place.db, olav, other.id)).answerers).toMatchObject([{ name: 'Rune' }]);
    expect(await waits(rune)).toEqual([`answer ${other.number}`]);
  });

  it('does not open by a schema what somebody else owns in it', async () => {
    await owns(rune, 'sales');
    const request = await askOne(olav, ['sales']);
    expect(request.answerers).toMatchObject([{ name: 'Rune' }]);
    const seen = await readRequest(place.db, rune, request.id);
    expect(seen).toMatchObject({ mayAnswer: false, whyNot: expect.stringContaining('owned by somebody else') });
    expect(await refused(grant(rune, request.id, granting(['sales'])))).toMatchObject({ code: 'forbidden' });
    await grant(petra, request.id, granting(['sales']));
    expect(await reads(olav, 'guest')).toEqual(ALL);
  });

  it('is who administers the policies of all domains that it reaches', async () => {
    // The fares are moved into another domain than what they lie in.
    await place.db.run('update asset set domain_set = $2 where id = $1', [id('fare'), place.elsewhere]);
    await place.db.run('select settle_domains(array[$1::uuid])', [id('fare')]);
    const request = await askOne(olav, ['sales']);
    expect(await refused(grant(petra, request.id, granting(['sales'])))).toMatchObject({ code: 'forbidden' });
    const allow = (assetIds: string[]) =>
      place.db.transaction((tx) =>
        createPolicy(tx, petra, policyBody({ name: 'All', effect: 'allow', everyone: true, assetIds })),
      );
    for (const name of ['sales', 'db']) expect(await refused(allow([id(name)]))).toMatchObject({ code: 'forbidden' });
    await allow([id('guest')]);
    // One that was made before is not changed by who reaches less.
    await addPolicy(place.db, { name: 'Sales', assetIds: [id('sales')], everyone: true });
    const policy = (await listPolicies(place.db, petra)).find(({ name }) => name === 'Sales');
    expect(await refused(place.db.transaction((tx) => removePolicy(tx, petra, policy?.id ?? '')))).toMatchObject({
      code: 'forbidden',
    });
  });

  it('waits for policy administrators too when it has waited for a week', async () => {
    const request = await askOne(olav, ['guest']);
    expect(await waits(petra)).toEqual([]);
    await place.db.run("update access_request set asked_at = now() - interval '8 days'");
    expect(await waits(petra)).toEqual([`answer ${request.number}`]);
  });

  it('is a deputy while the owner is away, under their own name', async () => {
    const put = async (
      who: Who,
      personId: string,
      deputyId: string | null,
      from: string | null,
      until: string | null,
    ) => {
      const { version } = await deputyOf(place.db, who, personId);
      await place.db.transaction((tx) => changeDeputy(tx, who, personId, version, { deputyId, from, until }));
    };
    const request = await askOne(olav, ['guest']);
    expect(await refused(put(rune, maud.id, rune.id, null, day(3)))).toMatchObject({ code: 'forbidden' });
    for (const [deputyId, until] of [
      [maud.id, day(3)],
      [rune.id, day(-1)],
      [rune.id, null],
    ] as const)
      expect(await refused(put(maud, maud.id, deputyId, null, until))).toMatchObject({ code: 'invalid' });

    await put(maud, maud.id, rune.id, day(1), day(3));
    expect(await waits(rune)).toEqual([]);
    await put(maud, maud.id, rune.id, null, day(3));
    expect(await waits(rune)).toEqual([`answer ${request.number}`]);
    expect((await readRequest(place.db, olav, request.id)).answerers).toMatchObject([{ name: 'Maud', deputy: 'Rune' }]);
    expect((await deputyOf(place.db, rune, rune.id)).standsInFor).toMatchObject([{ name: 'Maud' }]);
    const granted = await grant(rune, request.id, granting(['guest']));
    expect(granted).toMatchObject({ answeredBy: 'Rune', answeredFor: 'Maud' });

    // Nobody answers for whoever asked: what Maud asked for of her own group waits for others.
    const own = await askOne(maud, ['guest']);
    expect(await waits(rune)).toEqual([]);
    expect(await refused(grant(rune, own.id, granting(['guest'])))).toMatchObject({ status: 403 });
    expect(await waits(petra)).toEqual([`answer ${own.number}`]);

    await put(maud, maud.id, null, null, null);
    expect(await deputyOf(place.db, maud, maud.id)).toMatchObject({ deputy: null, until: null });
    const next = await askOne(olav, ['guest']);
    expect(await waits(rune)).toEqual([]);
    expect(await waits(maud)).toContain(`answer ${next.number}`);
  });
});

describe('requests over time', () => {
  it('end by their day, and are told before', async () => {
    const request = await askOne(olav, ['guest']);
    await grant(maud, request.id, granting(['guest'], { until: day(5) }));
    expect(await waits(olav)).toEqual([`ending ${request.number}`, `answered ${request.number}`]);
    await place.db.transaction((tx) => seeRequest(tx, olav, request.id, { what: 'answered', seen: true }));
    await place.db.transaction((tx) => seeRequest(tx, olav, request.id, { what: 'ending', seen: true }));
    expect(await waits(olav)).toEqual([]);
    expect(await listed(maud, 'granted', { endingWithin: 7 })).toEqual([request.number]);
    expect(await listed(maud, 'granted', { endingWithin: 3 })).toEqual([]);
    await place.db.run("update policy set until = now() - interval '1 second'");
    expect((await readRequest(place.db, maud, request.id)).state).toBe('ended');
    expect(await listed(maud, 'granted')).toEqual([]);
    expect(await reads(olav, 'guest')).toEqual(NOTHING);
    expect(
      await refused(place.db.transaction((tx) => seeRequest(tx, rune, request.id, { what: 'ending', seen: true }))),
    ).toMatchObject({
      code: 'not-found',
    });
  });

  it('are listed where nobody uses what they grant', async () => {
    const [guest, fare] = [await askOne(olav, ['guest']), await askOne(olav, ['fare'])];
    await grant(maud, guest.id, granting(['guest']));
    await grant(petra, fare.id, granting(['fare']));
    await place.db.run("update access_request set answered_at = now() - interval '100 days'");
    expect(await listed(petra, 'granted', { unusedFor: 90 })).toEqual([fare.number, guest.number]);
    await place.asks(olav, 'email', 10);
    await place.asks(rune, 'fare', 10);
    expect(await listed(petra, 'granted', { unusedFor: 90 })).toEqual([fare.number]);
    expect(await listed(olav, 'own', { unusedFor: 5 })).toEqual([fare.number, guest.number]);
    expect((await readRequest(place.db, maud, guest.id)).lastUsed).not.toBeNull();
  });

  it('have precedents: for the same, for neighbours, of the same person', async () => {
    const [first, second] = [await askOne(rune, ['guest']), await askOne(rune, ['fare'])];
    await answer(maud, first.id, { decision: 'refused', text: 'Not for this' });
    await grant(petra, second.id, granting(['fare']));
    const mine = await askOne(olav, ['guest']);
    const near = async (who: Who) => (await precedentsOf(place.db, who, mine.id)).map(({ number }) => number);
    expect(await near(petra)).toEqual([first.number, second.number]);
    // Of what they do not answer for they see none.
    expect(await near(maud)).toEqual([first.number]);
    expect(await refused(precedentsOf(place.db, rune, mine.id))).toMatchObject({ code: 'not-found' });
  });

  it('are told by mail, once each, and reminded of', async () => {
    const request = await askOne(olav, ['guest']);
    const mail = (why: 'asked' | 'granted' | 'reminder') =>
      mailOfRequest(place.db, box.config, { requestId: request.id, why });
    expect(await mail('asked')).toBe(1);
    expect(box.mails[0]).toMatchObject({ to: 'maud@example.org' });
    expect(box.mails[0]?.text).toContain('sales.guest in Test source');
    expect(box.mails[0]?.text).toContain(`https://idrel.example/access?show=3Drequests&request=3D${request.id}`);
    const jobs = async () =>
      (
        await place.db.one<{ n: number }>(
          "select count(*)::int as n from graphile_worker.jobs where task_identifier = 'request'",
        )
      )?.n;
    expect(await jobs()).toBe(1);
    expect(await remindOfRequests(place.db)).toBe(0);
    await place.db.run("update access_request set asked_at = now() - interval '4 days'");
    expect(await remindOfRequests(place.db)).toBe(1);
    expect(await remindOfRequests(place.db)).toBe(0);
    expect(await jobs()).toBe(2);
    expect(await mail('reminder')).toBe(1);
    await grant(maud, request.id, granting(['guest']));
    // It is answered: nobody is reminded any more.
    expect(await mail('reminder')).toBe(0);
    expect(await mail('granted')).toBe(1);
    expect(box.mails.at(-1)).toMatchObject({ to: 'olav@example.org' });
    expect(box.mails.at(-1)?.text).toContain('is granted');
  });

  it('hide what somebody may not see any more', async () => {
    const request = await askOne(olav, ['guest']);
    await grant(maud, request.id, granting(['guest']));
    await place.db.run('update role_grant set domain_id = $1 where person_id = $2', [place.elsewhere, olav.id]);
    const moved = (await loadWho(place.db, olav.id)) as Who;
    const seen = answerOf(await readRequest(place.db, moved, request.id));
    expect(seen.assets).toEqual([]);
    expect(seen.hidden).toBe(1);
    // What is theirs they can end all the same.
    await answer(moved, request.id, { decision: 'ended' });
    expect(await listPolicies(place.db, petra)).toEqual([]);
  });
});
