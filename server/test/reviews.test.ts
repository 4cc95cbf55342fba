import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { listPolicies } from '../src/access/policies.ts';
import { changeDeputy } from '../src/access/requests/deputies.ts';
import { readRequest } from '../src/access/requests/read.ts';
import { answerRequest, askForAccess } from '../src/access/requests/service.ts';
import { listItems, listReviews } from '../src/access/reviews/read.ts';
import {
  decideRight,
  endReview,
  reviewEffect,
  rightsForReview,
  startReview,
  tendReviews,
} from '../src/access/reviews/service.ts';
import { listRights } from '../src/access/rights.ts';
import type { Who } from '../src/people/index.ts';
import { addPolicy, refused } from './place.ts';
import { day, salesPlace } from './sales.ts';

let place: Awaited<ReturnType<typeof salesPlace>>;
let maud: Who;
let olav: Who;
let rune: Who;
let petra: Who;
let analysts: string;
let requestId: string;

beforeEach(async () => {
  place = await salesPlace();
  ({ maud, olav, rune, petra } = place);
  const { db, id, one } = place;
  analysts = await one("insert into person_group (name) values ('Analysts') returning id");
  await db.run('insert into group_member (group_id, person_id) values ($1, $2), ($1, $3)', [
    analysts,
    olav.id,
    rune.id,
  ]);
  await addPolicy(db, { name: 'Guests', assetIds: [id('guest')], groupIds: [analysts], personIds: [petra.id] });
  await addPolicy(db, { name: 'Fares for all', assetIds: [id('fare')], everyone: true });
  await addPolicy(db, { name: 'Off', assetIds: [id('guest')], personIds: [rune.id], enabled: false });
  await addPolicy(db, { name: 'Hidden', effect: 'deny', assetIds: [id('email')], everyone: true });
  const [request] = await db.transaction((tx) =>
    askForAccess(tx, olav, {
      assetIds: [id('guest')],
      columns: null,
      purpose: 'Complaint',
      note: '',
      until: null,
    }),
  );
  requestId = request?.id ?? '';
  await db.transaction((tx) =>
    answerRequest(tx, maud, requestId, request?.version ?? 0, {
      decision: 'granted',
      text: '',
      grant: {
        assetIds: [id('guest')],
        columns: ['port'],
        columnsBut: false,
        until: null,
        stated: false,
        masked: null,
      },
    }),
  );
});
afterEach(() => place.drop());

const start = (who: Who, more: { filter?: string | null; endsAt?: string; rest?: 'ends' | 'stays' } = {}) =>
  place.db.transaction((tx) =>
    startReview(tx, who, { name: 'Autumn', filter: null, endsAt: day(30), rest: 'ends', ...more }),
  );
const itemsOf = async (who: Who, reviewId: string, which: 'waiting' | 'open' | 'decided' | 'all' = 'all') =>
  (await listItems(place.db, who, reviewId, { which, offset: 0, limit: 100 })).items;
const named = async (who: Who, reviewId: string, which: 'waiting' | 'open' | 'decided' | 'all' = 'all') =>
  (await itemsOf(who, reviewId, which)).map(({ policy, subject }) => `${policy}: ${subject.name}`).sort();
const right = async (who: Who, reviewId: string, words: string) => {
  const found = (await itemsOf(who, reviewId)).find(({ policy, subject }) => `${policy}: ${subject.name}` === words);
  if (!found) throw new Error(`no right ${words}`);
  return found;
};
const decide = async (who: Who, reviewId: string, words: string, decision: 'kept' | 'ended' | null) => {
  const item = await right(who, reviewId, words);
  return place.db.transaction((tx) => decideRight(tx, who, item.id, { decision, seen: item.decidedAt }));
};
const REQUESTED = 'Request 1 of Olav: Olav';

describe('a review of rights', () => {
  it('asks those who answer for what is opened, about each of whom a policy is for', async () => {
    expect(await rightsForReview(place.db, petra, null)).toEqual({
      rights: 4,
      policies: 3,
      asked: [
        { name: 'Maud', rights: 3 },
        { name: 'policy administrators', rights: 1 },
      ],
    });
    const review = await start(petra);
    expect(review).toMatchObject({ open: 4, kept: 0, ended: 0, waiting: 1, mayEnd: true });
    // What somebody answers for is theirs to decide first.
    expect(await named(petra, review.id, 'waiting')).toEqual(['Fares for all: everyone']);
    // Nobody decides on a right of their own.
    expect(await named(petra, review.id)).toEqual(['Fares for all: everyone', 'Guests: Analysts', REQUESTED]);
    expect(await named(maud, review.id, 'waiting')).toEqual(['Guests: Analysts', 'Guests: Petra', REQUESTED]);
    expect((await listReviews(place.db, maud))[0]).toMatchObject({ waiting: 3, mayEnd: false });
    expect(await listReviews(place.db, rune)).toEqual([]);
    expect(await refused(listItems(place.db, rune, review.id, { which: 'all', offset: 0, limit: 9 }))).toMatchObject({
      code: 'not-found',
    });
  });

  it('is over what a filter finds, what that lies in and what lies in it', async () => {
    const found = async (filter: string) => (await rightsForReview(place.db, petra, filter)).rights;
    expect(await found('kind:table name:fare')).toBe(1);
    expect(await found('kind:schema name:sales')).toBe(4);
    expect(await found('kind:column name:email')).toBe(3);
    expect(await found('name:nothing')).toBe(0);
    expect(await refused(start(petra, { filter: 'name:nothing' }))).toMatchObject({ code: 'invalid' });
    expect(await refused(start(petra, { filter: 'kind:' }))).toMatchObject({ code: 'invalid' });
    expect(await refused(start(petra, { endsAt: day(-1) }))).toMatchObject({ code: 'invalid' });
    await start(petra, { filter: 'name:guest' });
    expect(await refused(start(petra))).toMatchObject({ code: 'name-taken' });
  });

  it('keeps and ends rights by a word, and takes back what was decided', async () => {
    const { id: review } = await start(petra);
    expect(await place.reads(rune, 'guest')).toMatchObject({ guest_id: 'plain', port: 'plain' });
    await decide(maud, review, REQUESTED, 'kept');
    await decide(maud, review, 'Guests: Analysts', 'ended');
    expect(await place.reads(rune, 'guest')).toMatchObject({ guest_id: 'refused', port: 'refused' });
    expect(await place.reads(olav, 'guest')).toMatchObject({ guest_id: 'refused', port: 'plain' });
    expect((await listReviews(place.db, maud))[0]).toMatchObject({ kept: 1, ended: 1, open: 2, waiting: 1 });
    // With the last of whom it is for, a policy is off.
    await decide(maud, review, 'Guests: Petra', 'ended');
    const guests = async () => (await listPolicies(place.db, place.petra)).find(({ name }) => name === 'Guests');
    expect(await guests()).toMatchObject({ enabled: false, groupIds: [], personIds: [] });
    await decide(maud, review, 'Guests: Analysts', null);
    expect(await place.reads(rune, 'guest')).toMatchObject({ guest_id: 'plain' });
    await decide(maud, review, 'Guests: Petra', 'kept');
    expect(await guests()).toMatchObject({ enabled: true, groupIds: [analysts], personIds: [petra.id] });

    // What a request granted ends as such, and is granted again.
    await decide(maud, review, REQUESTED, 'ended');
    expect((await readRequest(place.db, olav, requestId)).state).toBe('ended');
    expect((await listPolicies(place.db, petra)).map(({ name }) => name)).not.toContain('Request 1 of Olav');
    await decide(maud, review, REQUESTED, null);
    expect((await readRequest(place.db, olav, requestId)).state).toBe('granted');
    await decide(maud, review, REQUESTED, 'ended');
    expect((await readRequest(place.db, olav, requestId)).state).toBe('ended');
  });

  it('brings nothing back of a policy that somebody changed since', async () => {
    const { id: review } = await start(petra);
    await decide(maud, review, 'Guests: Analysts', 'ended');
    await place.db.run("update policy set version = version + 1, columns = null where name = 'Guests'");
    expect(await refused(decide(maud, review, 'Guests: Analysts', null))).toMatchObject({
      code: 'settled-already',
      detail: expect.stringContaining('was changed or removed since'),
    });
    expect(await place.reads(rune, 'guest')).toMatchObject({ guest_id: 'refused' });
  });

  it('is about what a policy opens now, whoever changed it', async () => {
    const { id: review } = await start(petra);
    // The fares, which nobody owns, are opened by the same policy since.
    await place.db.run(
      "insert into policy_object (policy_id, asset_id) select id, $1 from policy where name = 'Guests'",
      [place.id('fare')],
    );
    expect(await refused(decide(maud, review, 'Guests: Analysts', 'ended'))).toMatchObject({ code: 'forbidden' });
    await tendReviews(place.db);
    expect(await named(maud, review, 'waiting')).toEqual([REQUESTED]);
    expect(await named(petra, review, 'waiting')).toContain('Guests: Analysts');
    await decide(petra, review, 'Guests: Analysts', 'ended');
    expect(await place.reads(rune, 'guest')).toMatchObject({ guest_id: 'refused' });
  });

  it('does not switch on a policy that somebody else switched off', async () => {
    const { id: review } = await start(petra);
    await place.db.run("update policy set enabled = false, version = version + 1 where name = 'Fares for all'");
    await decide(petra, review, 'Fares for all: everyone', 'ended');
    await decide(petra, review, 'Fares for all: everyone', null);
    const fares = (await listPolicies(place.db, petra)).find(({ name }) => name === 'Fares for all');
    expect(fares).toMatchObject({ enabled: false, everyone: true });
  });

  it('is decided by the first, and by nobody about themselves', async () => {
    const { id: review } = await start(petra);
    const item = await right(maud, review, 'Guests: Analysts');
    const decideAs = (who: Who) =>
      place.db.transaction((tx) => decideRight(tx, who, item.id, { decision: 'kept', seen: null }));
    await decideAs(maud);
    expect(await refused(decideAs(petra))).toMatchObject({ code: 'decided-meanwhile' });
    const own = await right(maud, review, 'Guests: Petra');
    expect(
      await refused(place.db.transaction((tx) => decideRight(tx, petra, own.id, { decision: 'kept', seen: null }))),
    ).toMatchObject({ code: 'not-found' });
    await place.db.transaction((tx) =>
      changeDeputy(tx, maud, maud.id, 0, { deputyId: rune.id, from: null, until: day(3) }),
    );
    // Whoever stands in decides, and not on what is theirs alone.
    expect(await named(rune, review, 'waiting')).toEqual(['Guests: Petra', REQUESTED]);
    await decide(rune, review, REQUESTED, 'kept');
  });

  it('tells what would end with it, and ends that', async () => {
    const review = await start(petra);
    await decide(maud, review.id, 'Guests: Analysts', 'kept');
    await place.asks(maud, 'amount', 3);
    const effect = await reviewEffect(place.db, petra, review.id);
    // Of the guests the others keep what they read: Olav by his group, and Petra alone loses hers.
    expect(effect).toMatchObject({ rights: 3, tables: 2, columns: 3 });
    expect(effect.rows[0]).toEqual({
      person: 'Petra',
      tables: 2,
      columns: 3,
      first: expect.arrayContaining(['sales.guest', 'sales.fare']),
    });
    expect(effect.rows.find(({ person }) => person === 'Olav')).toEqual({
      person: 'Olav',
      tables: 1,
      columns: 1,
      first: ['sales.fare'],
    });
    expect(effect.used).toMatchObject([{ person: 'Maud', table: 'sales.fare', column: 'amount', times: 1 }]);
    expect(await refused(reviewEffect(place.db, maud, review.id))).toMatchObject({ code: 'forbidden' });

    const end = (who: Who, open: number) =>
      place.db.transaction((tx) => endReview(tx, who, review.id, { rest: 'ends', open }));
    expect(await refused(end(maud, 3))).toMatchObject({ code: 'forbidden' });
    expect(await refused(end(petra, 2))).toMatchObject({ code: 'count-changed' });
    expect(await end(petra, 3)).toMatchObject({ open: 0, kept: 1, ended: 3, waiting: 0 });
    expect(await place.reads(maud, 'fare')).toEqual({ amount: 'refused' });
    expect(await place.reads(rune, 'guest')).toMatchObject({ guest_id: 'plain' });
    expect((await readRequest(place.db, olav, requestId)).state).toBe('ended');
    expect(await refused(end(petra, 0))).toMatchObject({ code: 'settled-already' });
    expect(await refused(decide(maud, review.id, 'Guests: Analysts', 'ended'))).toMatchObject({
      code: 'settled-already',
    });
    const told = await place.db.rows<{ action: string; principal: string | null }>(
      "select action, coalesce(principal, 'a person') as principal from journal where subject_kind = 'review' order by id",
    );
    expect(told.map(({ action }) => action)).toEqual(['started', 'kept', 'over']);
  });

  it('ends by itself when its day is over, and leaves the rest where it was said so', async () => {
    const review = await start(petra, { rest: 'stays' });
    expect(await tendReviews(place.db)).toBe(0);
    await place.db.run("delete from policy where name = 'Fares for all'");
    await tendReviews(place.db);
    expect(await right(petra, review.id, 'Request 1 of Olav: Olav')).toMatchObject({ decision: null });
    await place.db.run("update access_review set ends_at = now() - interval '1 second'");
    expect(await tendReviews(place.db)).toBe(1);
    expect(await tendReviews(place.db)).toBe(0);
    expect(await place.reads(rune, 'guest')).toMatchObject({ guest_id: 'plain' });
    expect((await listReviews(place.db, petra))[0]).toMatchObject({ open: 3, ended: 0 });

    const second = await place.db.transaction((tx) =>
      startReview(tx, petra, { name: 'Winter', filter: null, endsAt: day(1), rest: 'ends' }),
    );
    await place.db.run("update access_review set ends_at = now() - interval '1 second' where id = $1", [second.id]);
    expect(await tendReviews(place.db)).toBe(1);
    expect(await place.reads(rune, 'guest')).toMatchObject({ guest_id: 'refused' });
    const [last] = await place.db.rows<{ principal_kind: string; principal: string }>(
      "select principal_kind, principal from journal where subject_kind = 'policy' order by id desc limit 1",
    );
    expect(last).toEqual({ principal_kind: 'service', principal: 'review of rights' });
  });
});

describe('rights', () => {
  const asked = async (who: Who, asset: string, daysAgo: number) => {
    const { db, one, sourceId, id } = place;
    const statement = await one(
      'insert into asked_statement (id, source_id, print) values (gen_random_uuid(), $1, gen_random_uuid()::text) returning id',
      [sourceId],
    );
    await db.run("insert into asked_for (asset_id, statement_id, how) values ($1, $2, '{}')", [id(asset), statement]);
    await db.run(
      "insert into asked_by (statement_id, person_id, calls, moved_at) values ($1, $2, 1, now() - $3 * interval '1 day')",
      [statement, who.id, daysAgo],
    );
  };
  const list = async (more: { unusedFor?: number; endingWithin?: number } = {}, who = petra) => {
    const { items, total } = await listRights(place.db, who, { offset: 0, limit: 100, ...more });
    expect(total).toBe(items.length);
    return items.map(({ policy, subject }) => `${policy}: ${subject.name}`);
  };

  it('are those of policies in force, each with its end and its last use', async () => {
    const granted = 'Request 1 of Olav: Olav';
    expect((await list()).sort()).toEqual(['Fares for all: everyone', 'Guests: Analysts', 'Guests: Petra', granted]);
    await asked(olav, 'email', 2);
    await asked(olav, 'guest', 400);
    await asked(maud, 'amount', 40);
    const { items } = await listRights(place.db, petra, { offset: 0, limit: 100 });
    const daysAgo = Object.fromEntries(
      items.map(({ policy, subject, lastUsed }) => [
        `${policy}: ${subject.name}`,
        lastUsed && Math.round((Date.now() - new Date(lastUsed).getTime()) / 86_400_000),
      ]),
    );
    // By what a right opens, whatever of it was asked for, and by whoever of those whom it is for.
    expect(daysAgo).toEqual({
      'Fares for all: everyone': 40,
      'Guests: Analysts': 2,
      'Guests: Petra': null,
      [granted]: 2,
    });
    expect(await list({ unusedFor: 30 })).toEqual(['Guests: Petra', 'Fares for all: everyone']);
    expect(await list({ unusedFor: 90 })).toEqual(['Guests: Petra']);
    await place.db.run("update policy set until = now() + interval '5 days' where name = 'Guests'");
    await place.db.run("update policy set until = now() - interval '5 days' where name = 'Fares for all'");
    expect((await list({ endingWithin: 7 })).sort()).toEqual(['Guests: Analysts', 'Guests: Petra']);
    expect(await list({ endingWithin: 3 })).toEqual([]);
    expect(await list()).toHaveLength(3);
  });

  it('are told page by page, and of the domains whose policies one administers alone', async () => {
    const page = await listRights(place.db, petra, { offset: 1, limit: 2 });
    expect(page.total).toBe(4);
    expect(page.items).toHaveLength(2);
    expect(page.items[0]?.assets[0]).toMatchObject({ kind: 'table' });
    expect(await list({}, rune)).toEqual([]);
  });
});
