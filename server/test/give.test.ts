import type { GiveBody } from '@idrel/contract/access';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { checkedPolicies } from '../src/access/checked.ts';
import { factsFor } from '../src/access/facts.ts';
import { givenOn, giveOn, takeGiven } from '../src/access/give.ts';
import { POLICIES_HELD } from '../src/access/index.ts';
import { readableBy, readersOf } from '../src/access/lists.ts';
import { changePolicy, createPolicy, listPolicies, removePolicy } from '../src/access/policies.ts';
import { reach } from '../src/access/reach.ts';
import { listRights } from '../src/access/rights.ts';
import { sampleOf } from '../src/access/sample.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { leave } from '../src/people/manage.ts';
import { addPolicy, policyBody, refused } from './place.ts';
import { day, salesPlace } from './sales.ts';

let place: Awaited<ReturnType<typeof salesPlace>>;
let maud: Who;
let olav: Who;
let rune: Who;
let sten: Who;
let petra: Who;
beforeEach(async () => {
  place = await salesPlace();
  ({ maud, olav, rune, sten, petra } = place);
});
afterEach(() => place.drop());

const FRESH: GiveBody = { personIds: [], groupIds: [], columns: null, opens: 'read', passesOn: false, until: null };
const give = (who: Who, to: readonly Pick<Who, 'id'>[], more: Partial<GiveBody> = {}) =>
  place.db.transaction((tx) =>
    giveOn(tx, who, place.id('guest'), { ...FRESH, personIds: to.map(({ id }) => id), ...more }),
  );
const take = (who: Who, id: string) => place.db.transaction((tx) => takeGiven(tx, who, id));
const given = (who: Who) => givenOn(place.db, who, place.id('guest'));
const reads = (who: Pick<Who, 'id'>) => place.reads(who, 'guest');
/** Lets somebody read the guests, and give that on. */
const open = (who: Pick<Who, 'id'>, more: Partial<Parameters<typeof addPolicy>[1]> = {}) =>
  addPolicy(place.db, {
    name: `Open ${who.id}`,
    assetIds: [place.id('guest')],
    personIds: [who.id],
    passesOn: true,
    ...more,
  });
const NOTHING = { guest_id: 'refused', email: 'refused', port: 'refused' };
const ALL = { guest_id: 'plain', email: 'plain', port: 'plain' };

describe('giving on', () => {
  it('opens what the giver may pass on, is told of, and is taken back', async () => {
    await open(maud, { columns: ['guest_id', 'email'] });
    expect(await given(maud)).toMatchObject({
      columns: [
        { name: 'email', masked: false, preview: false },
        { name: 'guest_id', masked: false, preview: false },
      ],
      limited: false,
      given: [],
    });
    const gift = await give(maud, [olav], { until: day(10) });
    expect(gift).toMatchObject({ to: [{ kind: 'person', name: 'Olav' }], columns: null, opens: 'read', holds: true });
    expect(await reads(olav)).toEqual({ ...NOTHING, guest_id: 'plain', email: 'plain' });
    expect(await reads(rune)).toEqual(NOTHING);
    expect((await given(maud)).given).toMatchObject([{ policyId: gift.policyId }]);
    // Who was given to without that may not give it on.
    expect(await given(olav)).toMatchObject({ columns: [], given: [] });
    expect(await refused(give(olav, [rune]))).toMatchObject({ status: 403 });
    // Nobody else takes it back this way.
    expect(await refused(take(petra, gift.policyId))).toMatchObject({ status: 404 });
    await take(maud, gift.policyId);
    expect(await reads(olav)).toEqual(NOTHING);
    const told = await place.db.rows<{ action: string }>(
      "select action from journal where subject_kind = 'policy' order by id",
    );
    expect(told.map(({ action }) => action)).toEqual(['given on', 'taken back']);
  });

  it('goes when the right of its giver goes, and comes back with it', async () => {
    const right = await open(maud);
    await give(maud, [olav]);
    expect(await reads(olav)).toEqual(ALL);
    const deny = await addPolicy(place.db, {
      name: 'Not the port',
      effect: 'deny',
      assetIds: [place.id('guest')],
      columns: ['port'],
      personIds: [maud.id],
    });
    expect(await reads(olav)).toEqual({ ...ALL, port: 'refused' });
    await place.db.run('delete from policy where id = $1', [deny]);
    await place.db.run('update policy set enabled = false where id = $1', [right]);
    expect(await reads(olav)).toEqual(NOTHING);
    expect((await given(maud)).given).toMatchObject([{ holds: false }]);
    expect((await checkedPolicies(place.db, petra)).idle).toMatchObject([{ because: 'not theirs' }]);
    await place.db.run('update policy set enabled = true where id = $1', [right]);
    expect(await reads(olav)).toEqual(ALL);
  });

  it('is read under the masks of its giver, through the rights of a group that they are in', async () => {
    const group = await place.one("insert into person_group (name) values ('Desk') returning id");
    await place.db.run('insert into group_member (group_id, person_id) values ($1, $2)', [group, maud.id]);
    await open(maud, { personIds: [], groupIds: [group] });
    await addPolicy(place.db, {
      name: 'The desk sees no mail',
      effect: 'protect',
      assetIds: [place.id('guest')],
      columns: ['email'],
      groupIds: [group],
      mask: { kind: 'blank' },
    });
    await give(maud, [olav]);
    expect(await reads(maud)).toEqual({ ...ALL, email: 'masked' });
    expect(await reads(olav)).toEqual({ ...ALL, email: 'masked' });
    expect((await given(maud)).columns).toContainEqual({ name: 'email', masked: true, preview: false });
    await place.db.run('delete from group_member');
    expect(await reads(olav)).toEqual(NOTHING);
  });

  it('goes from hand to hand where it is said that it may', async () => {
    await open(maud);
    await give(maud, [olav], { passesOn: true, columns: ['guest_id', 'port'] });
    await give(olav, [rune], { columns: ['port'] });
    expect(await reads(rune)).toEqual({ ...NOTHING, port: 'plain' });
    const [gift] = (await given(maud)).given;
    await take(maud, gift?.policyId ?? '');
    expect(await reads(rune)).toEqual(NOTHING);
  });

  it('is told of to those who administer the policies, who remove it and do not change it', async () => {
    await open(maud);
    const gift = await give(maud, [olav]);
    const all = await listPolicies(place.db, petra);
    const policy = all.find(({ id }) => id === gift.policyId);
    expect(policy).toMatchObject({ name: 'sales.guest, given on by Maud', givenBy: 'Maud', mayEdit: true });
    if (!policy) throw new Error('no policy');
    const body = policyBody({ ...policy, name: 'Mine now', assetIds: [...policy.assetIds] });
    expect(
      await refused(
        place.db.transaction((tx) =>
          changePolicy(tx, petra, policy.id, policy.version, policyBody({ ...body, ...{ effect: 'allow' } })),
        ),
      ),
    ).toMatchObject({ status: 403, detail: expect.stringMatching(/Maud gave this on/) });
    expect((await listRights(place.db, petra, { offset: 0, limit: 50 })).items).toContainEqual(
      expect.objectContaining({ policyId: policy.id, givenBy: 'Maud', opens: 'read' }),
    );
    const readers = await readersOf(place.db, petra, place.id('guest'), null);
    expect(readers.people.map(({ person, plain }) => [person, plain])).toEqual([
      ['Maud', 3],
      ['Olav', 3],
    ]);
    // What removing it takes is what was given, not what a policy of its own would be.
    expect((await reach(place.db, petra, policy.id, null)).losses).toBe(3);
    expect((await reach(place.db, petra, policy.id, policyBody({ ...policy }))).people).toBe(0);
    await place.db.transaction((tx) => removePolicy(tx, petra, policy.id));
    expect(await reads(olav)).toEqual(NOTHING);
  });

  it('refuses what cannot be given, and says why', async () => {
    expect(await refused(give(maud, [olav]))).toMatchObject({ status: 403, mend: expect.stringMatching(/given on/) });
    await open(maud, { columns: ['guest_id'] });
    expect(await refused(give(maud, [olav], { columns: ['email'] }))).toMatchObject({
      status: 422,
      detail: expect.stringMatching(/email, which you may not give on/),
    });
    for (const body of [
      { personIds: [] },
      { personIds: [maud.id] },
      { until: day(-1) },
      { personIds: ['00000000-0000-4000-8000-000000000000'] },
    ])
      expect(await refused(give(maud, [olav], body))).toMatchObject({ status: 422 });
    // Of what is not there for somebody, nothing is told.
    expect(await refused(given(sten))).toMatchObject({ status: 404 });
    // Nothing of the source is there for who has no role in its domain, whatever is opened to them.
    expect(await refused(give(maud, [olav, sten]))).toMatchObject({
      status: 422,
      detail: expect.stringMatching(/Sten, who does not see Test source: without a role in Travel/),
    });
    const draft = policyBody({ name: 'P', effect: 'allow', everyone: true, assetIds: [place.id('guest')] });
    await addPolicy(place.db, { name: 'Sten too', assetIds: [place.id('guest')], personIds: [sten.id] });
    const { people } = await readersOf(place.db, petra, place.id('guest'), null);
    expect(people.map(({ person, sees }) => [person, sees])).toEqual([
      ['Maud', true],
      ['Sten', false],
    ]);
    await place.db.run("delete from policy where name = 'Sten too'");
    expect((await reach(place.db, petra, null, draft)).unseen).toEqual([
      { personId: sten.id, person: 'Sten', source: 'Test source', domain: 'Travel' },
    ]);
    const partner = await place.one("insert into partner (name) values ('Harbour board') returning id");
    const theirs = await place.one("insert into person_group (name, partner_id) values ('Board', $1) returning id", [
      partner,
    ]);
    expect(await refused(give(maud, [], { groupIds: [theirs] }))).toMatchObject({
      status: 422,
      detail: expect.stringMatching(/offered to it as a share/),
    });
    expect(await refused(givenOn(place.db, maud, place.id('sales')))).toMatchObject({ status: 422 });
  });

  it('is ended with whoever gave it when they leave', async () => {
    await open(maud);
    await give(maud, [olav]);
    const admin = (await loadWho(place.db, place.personId)) as Who;
    const held = POLICIES_HELD.find(({ what }) => what === 'rights that they gave on');
    expect(await held?.list(place.db, maud.id)).toMatchObject({
      count: 1,
      first: [{ name: 'sales.guest, given on by Maud' }],
    });
    // Even before anything is passed on, nobody is let in by somebody who is gone.
    await place.db.run('update person set left_at = now() where id = $1', [maud.id]);
    expect(await reads(olav)).toEqual(NOTHING);
    await place.db.run('update person set left_at = null where id = $1', [maud.id]);
    expect(await reads(olav)).toEqual(ALL);
    const seen = (await held?.list(place.db, maud.id))?.count ?? 0;
    const others = POLICIES_HELD.filter((one) => one !== held);
    let count = seen;
    for (const one of others) count += (await one.list(place.db, maud.id)).count;
    await place.db.transaction((tx) => leave(tx, admin, POLICIES_HELD, maud.id, { to: null, seen: count }));
    expect(await place.db.one('select from policy where given_by = $1', [maud.id])).toBeUndefined();
  });
});

describe('a preview', () => {
  it('shows a few rows, and lets no statement read', async () => {
    await open(olav, { opens: 'preview', passesOn: false });
    expect(await reads(olav)).toEqual(NOTHING);
    const sample = await sampleOf(place.db, olav, place.id('guest'), 200, null);
    expect(sample.sql).toBe('select "email", "guest_id", "port" from "sales"."guest" limit 20');
    expect(sample.table.columns.map(({ name, access, mask }) => [name, access, mask?.kind ?? null])).toEqual([
      ['email', 'preview', 'blank'],
      ['guest_id', 'preview', null],
      ['port', 'preview', null],
    ]);
    // Who may read more than that is not held to it.
    await open(rune);
    expect((await sampleOf(place.db, rune, place.id('guest'), 200, null)).sql).toMatch(/limit 200$/);
  });

  it('is counted among what somebody is shown, for who asks who can read it', async () => {
    await open(olav, { opens: 'preview' });
    const readers = await readersOf(place.db, petra, place.id('guest'), null);
    expect(readers.people).toMatchObject([{ person: 'Olav', access: 'partly', plain: 0, masked: 0, preview: 3 }]);
    expect(await readableBy(place.db, olav, olav.id, null)).toMatchObject({
      plain: 0,
      tables: [{ table: 'sales.guest', preview: 3, sensitive: 0 }],
    });
    const draft = policyBody({
      name: 'P',
      effect: 'allow',
      everyone: false,
      personIds: [rune.id],
      assetIds: [place.id('guest')],
      opens: 'preview',
    });
    const { rows, gains } = await reach(place.db, petra, null, draft);
    expect(gains).toBe(3);
    expect(rows.map(({ column, before, after }) => `${column} ${before} ${after}`)).toContain('email refused preview');
  });

  it('is nothing that a policy says that opens nothing', async () => {
    for (const more of [{ opens: 'preview' as const }, { passesOn: true }])
      expect(
        await refused(
          place.db.transaction((tx) =>
            createPolicy(tx, petra, policyBody({ effect: 'deny', assetIds: [place.id('guest')], ...more })),
          ),
        ),
      ).toMatchObject({ status: 422 });
    await expect(
      place.db.run("insert into policy (name, effect, everyone, opens) values ('x', 'protect', true, 'preview')"),
    ).rejects.toThrow(/only_what_allows/);
  });

  it('is decided for a person with their groups and those of givers in one go', async () => {
    await open(maud, { opens: 'preview' });
    await give(maud, [olav], { opens: 'preview' });
    const facts = (preview: boolean) =>
      factsFor(place.db, { personId: olav.id, purpose: null, preview }, 't.id = $1', [place.id('guest')], 'any');
    expect((await facts(true))?.policies.map(({ name }) => name)).toEqual([
      `Open ${maud.id}`,
      'sales.guest, given on by Maud',
    ]);
    expect(await reads(olav)).toEqual(NOTHING);
    expect(await refused(give(maud, [rune], { opens: 'read' }))).toMatchObject({ status: 403 });
  });
});
