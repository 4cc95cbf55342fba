import type { DomainAnswer, DomainBody } from '@idrel/contract/people';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { listPolicies } from '../src/access/policies.ts';
import { getAsset } from '../src/catalog/index.ts';
import {
  addDomain,
  changeDomain,
  DOMAINS_HELD,
  listDomains,
  ownedDomains,
  removeDomain,
} from '../src/people/domains.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { domainMoveEffect, domainRights, moveEffect, personRights } from '../src/people/rights.ts';
import { waitingFor } from '../src/writing/discussions.ts';
import { addPolicy, freshDatabase, personWith, refused, staffed } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let who: Who;
let editor: Who;
let reader: Who;
let travel = '';
let crewing = '';
let sourceId = '';
beforeAll(async () => {
  place = await freshDatabase();
  ({ who, editor, reader, domainId: travel, elsewhere: crewing, sourceId } = await staffed(place.db));
});
afterAll(() => place?.drop());
beforeEach(async () => {
  await place.db.run('delete from asset');
  await place.db.run('delete from policy');
  await place.db.run('delete from role_grant where domain_id <> all($1::uuid[])', [[travel, crewing]]);
  await place.db.run('update domain set parent_id = null, owner_id = null');
  await place.db.run('delete from domain where id <> all($1::uuid[])', [[travel, crewing]]);
  who = (await loadWho(place.db, who.id)) as Who;
});

const body = (changes: Partial<DomainBody> = {}): DomainBody => ({
  name: 'Bookings',
  purpose: 'What is booked.',
  ownerId: null,
  parentId: travel,
  shownOutside: false,
  ...changes,
});
const add = (changes: Partial<DomainBody> = {}, by = who) =>
  place.db.transaction((tx) => addDomain(tx, by, body(changes)));
const change = (domain: DomainAnswer, changes: Partial<DomainBody>, by = who) => {
  const { id, version, owner, ...rest } = domain;
  return place.db.transaction(async (tx) =>
    changeDomain(tx, await again(by.id), id, version, {
      name: rest.name,
      purpose: rest.purpose,
      parentId: rest.parentId,
      shownOutside: rest.shownOutside,
      ownerId: owner?.id ?? null,
      ...changes,
    }),
  );
};
const again = async (id: string) => (await loadWho(place.db, id)) as Who;
const asset = async (name: string, domain: string, parent: string | null = null) =>
  (
    await place.db.one<{ id: string }>(
      "insert into asset (source_id, domain_id, kind, name, key, depth, parent_id) values ($1, $2, 'table', $3, $3, 0, $4) returning id",
      [sourceId, domain, name, parent],
    )
  )?.id ?? '';

describe('domains', () => {
  it('are made by administrators of everything, changed by those of the domain, and moved by the former alone', async () => {
    expect(await refused(add({}, editor))).toMatchObject({ code: 'forbidden' });
    const made = await add({ ownerId: editor.id });
    expect(made).toMatchObject({ name: 'Bookings', owner: { name: 'Edda' }, parentId: travel, version: 1 });
    expect(await refused(add())).toMatchObject({ code: 'name-taken' });
    const local = await personWith(place.db, `Lona ${made.id}`, 'administrator', made.id);
    expect(await refused(change(made, { purpose: 'x' }, editor))).toMatchObject({ code: 'forbidden' });
    const changed = await change(made, { purpose: 'Fares lie elsewhere.' }, local);
    expect(changed).toMatchObject({ purpose: 'Fares lie elsewhere.', version: 2 });
    expect(await refused(change(changed, { parentId: crewing }, local))).toMatchObject({
      code: 'forbidden',
      detail: expect.stringContaining('administrator everywhere'),
    });
    expect(await refused(change(made, { name: 'x' }))).toMatchObject({ code: 'changed-meanwhile' });
    const told = await place.db.rows<{ action: string; after: object }>(
      "select action, after from journal where subject_kind = 'domain' and subject_id = $1 order by id",
      [made.id],
    );
    expect(told).toMatchObject([
      { action: 'created', after: { 'lies in': 'Travel', owner: 'Edda' } },
      { action: 'edited', after: { purpose: 'Fares lie elsewhere.' } },
    ]);
  });

  it('never come to lie in themselves, also when two are moved into each other at once', async () => {
    const bookings = await add();
    const legs = await add({ name: 'Legs', parentId: bookings.id });
    for (const parentId of [bookings.id, legs.id])
      expect(await refused(change(bookings, { parentId }))).toMatchObject({ code: 'invalid' });
    const [one, other] = [await add({ name: 'One', parentId: null }), await add({ name: 'Other', parentId: null })];
    const both = await Promise.all([
      refused(change(one, { parentId: other.id })),
      refused(change(other, { parentId: one.id })),
    ]);
    expect(both.filter((answer) => answer === undefined)).toHaveLength(1);
    expect(both.find(Boolean)).toMatchObject({ code: 'invalid' });
    const gone = '6e3f0b0e-0000-4000-8000-000000000000';
    expect(await refused(change(bookings, { parentId: gone }))).toMatchObject({ code: 'invalid' });
    expect(await refused(change(bookings, { ownerId: gone }))).toMatchObject({ code: 'invalid' });
  });

  it('are moved with all below them: rights follow, as was told before', async () => {
    const bookings = await add();
    const legs = await add({ name: 'Legs', parentId: bookings.id });
    const own = await personWith(place.db, `Own ${legs.id}`, 'reader', legs.id);
    const mate = await personWith(place.db, `Mate ${legs.id}`, 'steward', crewing);
    await place.db.run('insert into role_grant (person_id, role, domain_id) values ($1, $2, $3)', [
      own.id,
      'editor',
      travel,
    ]);
    const effect = await domainMoveEffect(place.db, await again(who.id), bookings.id, crewing);
    expect(effect.people.find(({ id }) => id === mate.id)).toMatchObject({ gains: ['steward'], loses: [] });
    expect(effect.people.find(({ id }) => id === own.id)).toMatchObject({
      gains: [],
      loses: ['editor'],
      keepsIn: ['Legs'],
    });
    expect(effect.people.find(({ id }) => id === editor.id)).toMatchObject({ loses: ['editor'] });
    expect(effect.people.find(({ id }) => id === who.id)).toBeUndefined();
    expect((await again(mate.id)).is('steward', legs.id)).toBe(false);
    expect((await again(editor.id)).is('editor', legs.id)).toBe(true);
    await change(bookings, { parentId: crewing });
    expect((await again(mate.id)).is('steward', legs.id)).toBe(true);
    expect((await again(editor.id)).is('editor', legs.id)).toBe(false);
    expect((await again(own.id)).is('reader', legs.id)).toBe(true);
    expect(await refused(domainMoveEffect(place.db, reader, bookings.id, null))).toMatchObject({ code: 'forbidden' });
    // The same of a source that is put from one domain into another.
    const ofSource = await moveEffect(place.db, crewing, travel);
    expect(ofSource.people.find(({ id }) => id === mate.id)).toMatchObject({ loses: ['steward'], keepsIn: [] });
  });

  it('are removed when nothing lies in them, and say what does', async () => {
    const bookings = await add();
    const legs = await add({ name: 'Legs', parentId: bookings.id });
    const destroy = (id: string, by = who) => place.db.transaction((tx) => removeDomain(tx, by, id));
    expect(await refused(destroy(legs.id, editor))).toMatchObject({ code: 'forbidden' });
    expect(await refused(destroy(bookings.id))).toMatchObject({
      code: 'still-used',
      detail: 'In it lies the domain “Legs”.',
    });
    const table = await asset('leg', legs.id);
    expect(await refused(destroy(legs.id))).toMatchObject({ detail: 'In it lies the asset “leg”.' });
    await place.db.run('delete from asset where id = $1', [table]);
    await personWith(place.db, `Pia ${legs.id}`, 'reader', legs.id);
    expect(await refused(destroy(legs.id))).toMatchObject({ detail: `In it lies a role of “Pia ${legs.id}”.` });
    await place.db.run('delete from role_grant where domain_id = $1', [legs.id]);
    // What was told of it goes to the domain that it lay in; at the top there is none.
    await place.db.run(
      "insert into journal (principal_kind, principal, action, subject_kind, subject_id, subject_name, domain_id) values ('service', 's', 'x', 'table', 'y', 'z', $1)",
      [legs.id],
    );
    await place.db.run(
      "insert into level_day (day, source_id, domain_id, kind, level, assets) values ('2026-01-01', $1, $2, 'table', 1, 3), ('2026-01-01', $1, $3, 'table', 1, 4)",
      [sourceId, legs.id, bookings.id],
    );
    const top = await change(legs, { parentId: null });
    expect(await refused(destroy(legs.id))).toMatchObject({
      code: 'still-used',
      mend: expect.stringContaining('Move it'),
    });
    await change(top, { parentId: bookings.id });
    await destroy(legs.id);
    expect(await place.db.rows("select domain_id from journal where action = 'x'")).toEqual([
      { domain_id: bookings.id },
    ]);
    expect(await place.db.rows('select domain_id, assets from level_day')).toEqual([
      { domain_id: bookings.id, assets: 7 },
    ]);
    await place.db.run('delete from level_day');
    await place.db.run("delete from journal where action = 'x'");
    expect((await listDomains(place.db)).map(({ name }) => name).sort()).toEqual(['Bookings', 'Crewing', 'Travel']);
    const told = await place.db.rows("select action from journal where subject_id = $1 and action = 'removed'", [
      legs.id,
    ]);
    expect(told).toHaveLength(1);
  });
});

describe('rights', () => {
  it('are told with what they come from: of a domain by person, of a person by domain', async () => {
    const bookings = await add();
    const { rights, total } = await domainRights(place.db, bookings.id);
    expect(total).toBe(rights.length);
    const told = rights.map(({ person, role, from }) => [person.name, role, from]);
    expect(told).toContainEqual(['Edda', 'editor', 'Travel']);
    expect(told).toContainEqual(['Rune', 'reader', 'Travel']);
    expect(told.at(-1)).toEqual(['Nils Test', 'administrator', null]);
    await place.db.run("insert into role_grant (person_id, role, domain_id) values ($1, 'steward', $2)", [
      editor.id,
      bookings.id,
    ]);
    expect(await personRights(place.db, who, editor.id)).toEqual([
      { domainId: crewing, domain: 'Crewing', depth: 0, roles: [] },
      { domainId: travel, domain: 'Travel', depth: 0, roles: [{ role: 'editor', from: 'Travel' }] },
      { domainId: bookings.id, domain: 'Bookings', depth: 1, roles: [{ role: 'steward', from: 'Bookings' }] },
    ]);
  });
});

describe('whoever answers for a domain', () => {
  it('answers for what lies in it and below, as long as nobody nearer does', async () => {
    const bookings = await add({ ownerId: editor.id });
    const legs = await add({ name: 'Legs', parentId: bookings.id });
    const holder = await asset('booking', legs.id);
    const table = await asset('booking.leg', legs.id, holder);
    const inherited = async () => {
      const found = (await getAsset(place.db, await again(who.id), table)).inherited;
      return found && [found.owners.map(({ name }) => name), found.from.kind, found.from.name];
    };
    expect(await inherited()).toEqual([['Edda'], 'domain', 'Bookings']);
    expect(new Set(await ownedDomains(place.db, editor.id))).toEqual(new Set([bookings.id, legs.id]));
    await change(legs, { ownerId: reader.id });
    expect(await inherited()).toEqual([['Rune'], 'domain', 'Legs']);
    expect(await ownedDomains(place.db, editor.id)).toEqual([bookings.id]);
    const own = (asset: string, person: string) =>
      place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [asset, person]);
    await own(holder, who.id);
    expect(await inherited()).toEqual([['Nils Test'], 'table', 'booking']);
    await own(table, reader.id);
    expect(await inherited()).toBeNull();
  });

  it('is asked what is asked of assets that nobody answers for', async () => {
    const bookings = await add();
    const table = await asset('fare', bookings.id);
    await place.db.run(
      'insert into discussion (id, asset_id, question, begun_by) values (gen_random_uuid(), $1, true, $2)',
      [table, who.id],
    );
    const waits = async () => (await waitingFor(place.db, await again(reader.id), 10)).total;
    expect(await waits()).toBe(0);
    await change(bookings, { ownerId: reader.id });
    expect(await waits()).toBe(1);
  });

  it('passes it on when they leave', async () => {
    await add({ ownerId: editor.id });
    const [held] = DOMAINS_HELD;
    expect(await held?.list(place.db, editor.id)).toMatchObject({ count: 1, first: [{ name: 'Bookings' }] });
    await place.db.transaction(async (tx) => held?.pass(tx, who, editor.id, reader.id));
    expect((await listDomains(place.db)).find(({ name }) => name === 'Bookings')?.owner?.name).toBe('Rune');
  });
});

it('policies of a domain are those that name something in it, or below', async () => {
  const bookings = await add();
  const [inside, outside] = [await asset('fare', bookings.id), await asset('crew', crewing)];
  await addPolicy(place.db, { name: 'Fares', everyone: true, assetIds: [inside] });
  await addPolicy(place.db, { name: 'Crew', everyone: true, assetIds: [outside] });
  const named = async (domain: string) =>
    (await listPolicies(place.db, await again(who.id), domain)).map(({ name }) => name);
  expect(await named(travel)).toEqual(['Fares']);
  expect(await named(bookings.id)).toEqual(['Fares']);
  expect(await named(crewing)).toEqual(['Crew']);
});
