import type { PolicyBody } from '@idrel/contract/access';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { checkedPolicies } from '../src/access/checked.ts';
import { factsFor, thereFor } from '../src/access/facts.ts';
import { readersOf } from '../src/access/lists.ts';
import { changePolicy, checkPolicy, createPolicy, listPolicies, removePolicy } from '../src/access/policies.ts';
import { reach } from '../src/access/reach.ts';
import { askForAccess } from '../src/access/requests/service.ts';
import { listRights } from '../src/access/rights.ts';
import { sampleOf } from '../src/access/sample.ts';
import { shownTo } from '../src/access/shownCatalog.ts';
import { checkSeen, forgetSights } from '../src/access/sight.ts';
import { children, findAssets, getAsset, tree } from '../src/catalog/service.ts';
import { isSeen, loadWho, type Who } from '../src/people/index.ts';
import { askedSource, sourceFacts } from '../src/sources/index.ts';
import { finderHere, personWith, policyBody, refused } from './place.ts';
import { day, salesPlace } from './sales.ts';

let place: Awaited<ReturnType<typeof salesPlace>>;
/** Reads another domain alone. */
let sten: Who;
let petra: Who;
beforeEach(async () => {
  place = await salesPlace();
  ({ sten, petra } = place);
});
afterEach(() => place.drop());

/** Somebody as they are now: what policies let them see is looked up with each request. */
const now = async (who: Pick<Who, 'id'>): Promise<Who> => {
  const found = await loadWho(place.db, who.id);
  if (!found) throw new Error('nobody');
  return found;
};
const seeing = (assets: readonly string[], more: Partial<PolicyBody> = {}): PolicyBody =>
  policyBody({
    name: `See ${assets.join(' and ')}`,
    effect: 'allow',
    opens: 'see',
    everyone: false,
    personIds: [sten.id],
    assetIds: assets.map((name) => place.id(name)),
    ...more,
  });
const allow = (body: PolicyBody) => place.db.transaction((tx) => createPolicy(tx, petra, body));
const change = (id: string, version: number, body: PolicyBody) =>
  place.db.transaction((tx) => changePolicy(tx, petra, id, version, body));
/** What somebody sees of the source, by name. */
const sees = async (who: Pick<Who, 'id'>): Promise<string[]> =>
  (
    await place.db.rows<{ name: string }>(`select name from asset where ${isSeen('asset', '$1')} order by name`, [
      (await now(who)).domainsAs('reader'),
    ])
  ).map(({ name }) => name);
const GUEST = ['email', 'guest', 'guest_id', 'port'];
const ALL = ['amount', 'db', 'email', 'fare', 'guest', 'guest_id', 'port', 'sales'];

describe('a policy that lets be seen', () => {
  it('shows the listed assets with all that lies in them, to whom it is for and to nobody else, as long as it holds', async () => {
    expect(await sees(sten)).toEqual([]);
    const policy = await allow(seeing(['guest']));
    expect(await sees(sten)).toEqual(GUEST);
    // Who has a role in the domain sees as much as before.
    expect(await sees(place.maud)).toEqual(ALL);
    expect(await sees(petra)).toEqual(ALL);
    const other = await personWith(place.db, 'Liv', 'reader', place.elsewhere);
    expect(await sees(other)).toEqual([]);
    const seen = await now(sten);
    expect(await getAsset(place.db, seen, place.id('guest'))).toMatchObject({
      name: 'guest',
      byPolicy: true,
      mayEdit: false,
      mayCertify: false,
    });
    expect((await children(place.db, seen, place.id('guest'))).map(({ name }) => name).sort()).toEqual(
      GUEST.filter((name) => name !== 'guest'),
    );
    expect(await refused(getAsset(place.db, seen, place.id('fare')))).toMatchObject({ status: 404 });
    expect(await refused(getAsset(place.db, seen, place.id('sales')))).toMatchObject({ status: 404 });
    expect(await getAsset(place.db, place.maud, place.id('guest'))).toMatchObject({ byPolicy: false });
    const off = await change(policy.id, policy.version, seeing(['guest'], { enabled: false }));
    expect(await sees(sten)).toEqual([]);
    const ended = await change(policy.id, off.version, seeing(['guest'], { until: day(-1) }));
    expect(await sees(sten)).toEqual([]);
    const wider = await change(policy.id, ended.version, seeing(['guest', 'fare'], { until: day(1) }));
    expect(await sees(sten)).toEqual(['amount', ...GUEST.slice(0, 1), 'fare', ...GUEST.slice(1)]);
    await change(policy.id, wider.version, seeing(['fare']));
    expect(await sees(sten)).toEqual(['amount', 'fare']);
    await place.db.transaction((tx) => removePolicy(tx, petra, policy.id));
    expect(await sees(sten)).toEqual([]);
    expect(await place.db.rows('select from asset where opened_id is not null')).toEqual([]);
    expect(await forgetSights(place.db)).toBeGreaterThan(0);
    expect(await place.db.rows('select from sight')).toEqual([]);
  });

  it('shows nothing that was taken out of it, whatever is written at the same time', async () => {
    const olav = await personWith(place.db, 'Ove', 'reader', place.elsewhere);
    const first = await allow(seeing(['guest', 'fare']));
    let letGo = () => {};
    const held = new Promise<void>((resolve) => {
      letGo = resolve;
    });
    let isTaken = () => {};
    const taken = new Promise<void>((resolve) => {
      isTaken = resolve;
    });
    const taking = place.db.transaction(async (tx) => {
      await changePolicy(tx, petra, first.id, first.version, seeing(['fare']));
      isTaken();
      await held;
    });
    await taken;
    // It waits for the other one, and knows then what that has written.
    let isDone = false;
    const adding = allow(seeing(['guest'], { name: 'Another', personIds: [olav.id] })).then(() => {
      isDone = true;
    });
    await expect
      .poll(() =>
        place.db.one("select from pg_stat_activity where wait_event_type = 'Lock' and datname = current_database()"),
      )
      .toBeDefined();
    expect(isDone).toBe(false);
    letGo();
    await Promise.all([taking, adding]);
    expect(await sees(sten)).toEqual(['amount', 'fare']);
    expect(await sees(olav)).toEqual(GUEST);
  });

  it('is for groups and for everyone, but for who is excepted, and for no partner', async () => {
    const group = async (name: string, member: Pick<Who, 'id'>) => {
      const id = await place.one('insert into person_group (name) values ($1) returning id', [name]);
      await place.db.run('insert into group_member (group_id, person_id) values ($1, $2)', [id, member.id]);
      return id;
    };
    const [crew, left] = [await group('Crew', sten), await group('Left out', sten)];
    const policy = await allow(seeing(['guest'], { personIds: [], groupIds: [crew] }));
    expect(await sees(sten)).toEqual(GUEST);
    expect((await checkedPolicies(place.db, petra)).idle).toEqual([]);
    await place.db.run('delete from group_member where group_id = $1', [crew]);
    expect((await checkedPolicies(place.db, petra)).idle).toMatchObject([{ policyId: policy.id, because: 'nobody' }]);
    expect(await sees(sten)).toEqual([]);
    const all = await change(policy.id, policy.version, seeing(['guest'], { personIds: [], everyone: true }));
    expect(await sees(sten)).toEqual(GUEST);
    const partner = await place.one("insert into partner (name) values ('Quay') returning id");
    await place.db.run('update person set partner_id = $2 where id = $1', [sten.id, partner]);
    expect(await sees(sten)).toEqual([]);
    await place.db.run('update person set partner_id = null where id = $1', [sten.id]);
    await change(policy.id, all.version, seeing(['guest'], { personIds: [], everyone: true, exceptGroupIds: [left] }));
    expect(await sees(sten)).toEqual([]);
  });

  it('opens no values; beside one that allows it is read, and what is not seen of the source is not', async () => {
    await allow(seeing(['guest']));
    const body = policyBody({ effect: 'allow', everyone: true, assetIds: [place.id('sales')], name: 'All may read' });
    expect((await sampleOf(place.db, await now(sten), place.id('guest'), 10, null)).sql).toBeNull();
    const reading = await allow(body);
    const seen = await now(sten);
    expect((await sampleOf(place.db, seen, place.id('guest'), 10, null)).sql).toContain('"email"');
    expect(await refused(sampleOf(place.db, seen, place.id('fare'), 10, null))).toMatchObject({ status: 404 });
    // The source itself, its runs and plans, are not there for them; a statement over what they see is.
    expect(await refused(sourceFacts(place.db, seen, place.sourceId))).toMatchObject({ status: 404 });
    const asked = await askedSource(place.db, seen, place.sourceId);
    expect(asked.source).toMatchObject({ id: place.sourceId, mayScan: false });
    const there = thereFor(asked, 2);
    const facts = await factsFor(
      place.db,
      { personId: sten.id, purpose: null },
      `t.source_id = $1 and (${there.condition})`,
      [place.sourceId, ...there.bind],
    );
    expect(facts?.tables.map(({ name }) => name)).toEqual(['guest']);
    const shown = await shownTo(place.db, seen, asked.source, 'sten@example.org', {
      purpose: null,
      seen: asked.seen ?? [],
    });
    expect(shown.tables.map(({ name }) => name)).toEqual(['guest']);
    // Who reads the domain is held to nothing.
    expect((await askedSource(place.db, place.maud, place.sourceId)).seen).toBeUndefined();
    await place.db.transaction((tx) => removePolicy(tx, petra, reading.id));
    expect((await sampleOf(place.db, seen, place.id('guest'), 10, null)).sql).toBeNull();
  });

  it('is not needed for what was moved into a domain that somebody reads: of the source that is read, and nothing else', async () => {
    await allow(policyBody({ effect: 'allow', everyone: true, assetIds: [place.id('sales')], name: 'All may read' }));
    expect(await refused(askedSource(place.db, sten, place.sourceId))).toMatchObject({ status: 404 });
    await place.db.run('update asset set domain_id = $1 where id = $2 or parent_id = $2', [
      place.elsewhere,
      place.id('guest'),
    ]);
    await place.db.run('update asset set domain_set = $1 where id = $2', [place.elsewhere, place.id('guest')]);
    const reader = await now(sten);
    expect((await sampleOf(place.db, reader, place.id('guest'), 10, null)).sql).toContain('"email"');
    expect(await refused(sampleOf(place.db, reader, place.id('fare'), 10, null))).toMatchObject({ status: 404 });
    const asked = await askedSource(place.db, reader, place.sourceId);
    const there = thereFor(asked, 2);
    const facts = await factsFor(
      place.db,
      { personId: sten.id, purpose: null },
      `t.source_id = $1 and (${there.condition})`,
      [place.sourceId, ...there.bind],
    );
    expect(facts?.tables.map(({ name }) => name)).toEqual(['guest']);
    expect(await refused(sourceFacts(place.db, reader, place.sourceId))).toMatchObject({ status: 404 });
  });

  it('can be asked for to be read by who sees it so', async () => {
    await allow(seeing(['guest']));
    const [request] = await place.db.transaction(async (tx) =>
      askForAccess(tx, await now(sten), {
        assetIds: [place.id('guest')],
        columns: null,
        purpose: 'Complaints of the crew',
        note: '',
        until: null,
      }),
    );
    expect(request).toMatchObject({ state: 'waiting', assets: [{ id: place.id('guest') }] });
  });

  it('is found in searches, counted, and stands in the tree below its domain and its source', async () => {
    const finder = finderHere(place.db);
    const found = async (who: Pick<Who, 'id'>, filter = '') =>
      (
        await findAssets(place.db, finder, await now(who), {
          filter,
          sort: 'name',
          descending: false,
          limit: 20,
          offset: 0,
        })
      ).items.map(({ name }) => name);
    expect(await found(sten)).toEqual([]);
    const policy = await allow(seeing(['guest', 'email']));
    expect(await found(sten)).toEqual(['guest']);
    expect(await found(sten, 'fare kind:any')).toEqual([]);
    expect(await found(place.maud)).toEqual(['fare', 'guest', 'sales']);
    const root = await tree(place.db, finder, await now(sten), { by: 'domain' });
    expect(root.map(({ name, count }) => [name, count])).toEqual([
      ['Crewing', 0],
      ['Travel', 1],
    ]);
    const travel = root.find(({ name }) => name === 'Travel');
    const inside = await tree(place.db, finder, await now(sten), {
      by: 'domain',
      parent: travel?.id ?? '',
      parentType: 'domain',
    });
    expect(inside.map(({ name }) => name)).toEqual(['guest (sales)']);
    const sources = await tree(place.db, finder, await now(sten), { by: 'source' });
    expect(sources.map(({ id, count }) => [id, count])).toEqual([[place.sourceId, 1]]);
    const below = await tree(place.db, finder, await now(sten), {
      by: 'source',
      parent: place.sourceId,
      parentType: 'source',
    });
    expect(below.map(({ name }) => name)).toEqual(['guest (sales)']);
    await place.db.transaction((tx) => removePolicy(tx, petra, policy.id));
    expect(await found(sten)).toEqual([]);
    expect((await tree(place.db, finder, await now(sten), { by: 'source' })).map(({ id }) => id)).toEqual([]);
  });

  it('tells before it is saved who comes to see what, and who sees it no more', async () => {
    const told = await reach(
      place.db,
      petra,
      null,
      seeing(['guest', 'email'], { personIds: [sten.id, place.maud.id] }),
    );
    expect(told.sight).toMatchObject({ gains: 1, losses: 0, assets: 4 });
    expect(told.sight.rows.map(({ person, path, comes }) => [person, path, comes])).toEqual([
      ['Sten', 'sales.guest', true],
      ['Sten', 'sales.guest.email', true],
    ]);
    expect(told).toMatchObject({ people: 0, gains: 0, rows: [] });
    const policy = await allow(seeing(['sales']));
    // Seen by another policy already.
    expect((await reach(place.db, petra, null, seeing(['guest']))).sight).toEqual({
      gains: 0,
      losses: 0,
      assets: 0,
      rows: [],
    });
    expect((await reach(place.db, petra, policy.id, null)).sight).toMatchObject({ gains: 0, losses: 1, assets: 7 });
    expect((await reach(place.db, petra, policy.id, seeing(['sales'], { enabled: false }))).sight).toMatchObject({
      losses: 1,
    });
  });

  it('is told of where somebody gains what they do not see, and not where they see it', async () => {
    const body = policyBody({ effect: 'allow', everyone: false, personIds: [sten.id], assetIds: [place.id('sales')] });
    expect((await reach(place.db, petra, null, body)).unseen).toMatchObject([{ person: 'Sten' }]);
    const policy = await allow(seeing(['guest']));
    // Not all of what they gain.
    expect((await reach(place.db, petra, null, body)).unseen).toMatchObject([{ person: 'Sten' }]);
    await change(policy.id, policy.version, seeing(['sales']));
    expect((await reach(place.db, petra, null, body)).unseen).toEqual([]);
    await allow(body);
    const { people } = await readersOf(place.db, petra, place.id('guest'), null);
    expect(people.map(({ person, sees: told }) => [person, told])).toEqual([['Sten', true]]);
  });

  it('is for who administers the policies of all that it lists, and says whom and what alone', async () => {
    const administers = await personWith(place.db, 'Ada', 'policy administrator', place.elsewhere);
    expect(await refused(place.db.transaction((tx) => createPolicy(tx, administers, seeing(['guest']))))).toMatchObject(
      { status: 422 },
    );
    const flawed = (more: Partial<PolicyBody>) => {
      try {
        checkPolicy(seeing(['guest'], more));
        return [];
      } catch (error) {
        return (error as { more: { fields?: { field: string }[] } }).more.fields?.map(({ field }) => field);
      }
    };
    expect(flawed({})).toEqual([]);
    expect(flawed({ columns: ['email'] })).toEqual(['columns']);
    expect(flawed({ filter: 'tag:x' })).toEqual(['filter']);
    expect(flawed({ classKeys: ['email'] })).toEqual(['filter']);
    expect(flawed({ purposes: ['audit'] })).toEqual(['purposes']);
    expect(flawed({ passesOn: true })).toEqual(['passesOn']);
    expect(flawed({ assetIds: [], classKeys: ['email'] })).toEqual(['assetIds', 'filter']);
    expect(flawed({ hours: { days: [1], from: '08:00', to: '18:00', zone: 'Europe/Oslo' } })).toEqual(['hours']);
    expect(flawed({ effect: 'deny' })).toEqual(['opens']);
    // What is written asset by asset has a bound.
    const ids = [place.id('guest'), place.id('fare')];
    await checkSeen(place.db, ids, 6);
    expect(await refused(checkSeen(place.db, ids, 5))).toMatchObject({
      status: 422,
      detail: expect.stringContaining('at most 5 assets'),
      mend: expect.stringContaining('role'),
    });
    // Among rights it is told as what it is; nobody is told that it is not used.
    const told = async (unusedFor?: number) =>
      (await listRights(place.db, petra, { offset: 0, limit: 20, ...(unusedFor ? { unusedFor } : {}) })).items.map(
        ({ policy, opens }) => [policy, opens],
      );
    await allow(seeing(['guest']));
    expect(await told()).toEqual([['See guest', 'see']]);
    expect(await told(30)).toEqual([]);
    // Whom it is for sees what it lists, and so the policy.
    expect((await listPolicies(place.db, await now(sten))).map(({ name, mayEdit }) => [name, mayEdit])).toEqual([
      ['See guest', false],
    ]);
  });

  it('shows who looks as somebody only what they administer themselves', async () => {
    await allow(seeing(['guest']));
    const theirs = (await now(sten)).asSeenBy(await now(petra));
    expect(await getAsset(place.db, theirs, place.id('guest'))).toMatchObject({ name: 'guest' });
    const ada = await personWith(place.db, 'Ada', 'policy administrator', place.elsewhere);
    expect(await refused(getAsset(place.db, (await now(sten)).asSeenBy(ada), place.id('guest')))).toMatchObject({
      status: 404,
    });
  });
});
