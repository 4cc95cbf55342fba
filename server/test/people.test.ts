import type { PersonBody } from '@idrel/contract/people';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { POLICIES_HELD, REQUESTS_HELD } from '../src/access/index.ts';
import { getAsset, SEARCHES_HELD } from '../src/catalog/index.ts';
import { ASSETS_HELD } from '../src/curation/index.ts';
import { knowAsset } from '../src/curation/service.ts';
import { GLOSSARY_HELD } from '../src/glossary/index.ts';
import { VIEWS_HELD } from '../src/lineage/index.ts';
import { exportDirectory, importDirectory } from '../src/people/directory.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import {
  addGroup,
  addPerson,
  changeGroup,
  changePerson,
  comeBack,
  getPerson,
  holdingsOf,
  leave,
  removeGroup,
} from '../src/people/manage.ts';
import { personByPassword } from '../src/people/passwords.ts';
import { endSessions, listSessions } from '../src/people/sessions.ts';
import type { Config } from '../src/platform/config.ts';
import { ROUTINES_HELD } from '../src/routines/index.ts';
import { freshDatabase, furnish, personWith, refused } from './place.ts';

const HELD = [
  ...ASSETS_HELD,
  ...GLOSSARY_HELD,
  ...ROUTINES_HELD,
  ...SEARCHES_HELD,
  ...VIEWS_HELD,
  ...POLICIES_HELD,
  ...REQUESTS_HELD,
];
let place: Awaited<ReturnType<typeof freshDatabase>>;
let who: Who;
let steward: Who;
let sourceId: string;
let domainId: string;

const one = async (sql: string, bind: unknown[] = []) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
beforeAll(async () => {
  place = await freshDatabase();
  const made = await furnish(place.db);
  ({ sourceId, domainId } = made);
  who = (await loadWho(place.db, made.personId)) as Who;
  steward = await personWith(place.db, 'Stella', 'steward', domainId);
});
afterAll(() => place.drop());
beforeEach(async () => {
  for (const table of ['asset', 'journal', 'policy_subject', 'policy', 'saved_search', 'routine'])
    await place.db.run(`delete from ${table}`);
  await place.db.run('update scheme set owner_id = null');
  await place.db.run('delete from term');
});

let counted = 0;
const body = (more: Partial<PersonBody> = {}): PersonBody => {
  counted += 1;
  return {
    name: `Person ${counted}`,
    email: `p${counted}@example.org`,
    job: 'clerk',
    groupIds: [],
    grants: [],
    ...more,
  };
};
const add = (more: Partial<PersonBody> = {}, by = who) => place.db.transaction((tx) => addPerson(tx, by, body(more)));
const change = (id: string, version: number, changes: PersonBody, by = who) =>
  place.db.transaction((tx) => changePerson(tx, by, id, version, changes));
const go = (id: string, to: string | null, seen: number, by = who) =>
  place.db.transaction((tx) => leave(tx, by, HELD, id, { to, seen }));
const holds = async (id: string) =>
  (await holdingsOf(place.db, who, HELD, id)).map(({ what, count }) => [what, count] as const);
const asset = (name: string) =>
  one(
    "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'table', $3, $3, 0) returning id",
    [sourceId, domainId, name],
  );

describe('people', () => {
  it('are added and changed by administrators of everything, with groups and roles that hold from then on', async () => {
    expect(await refused(add({}, steward))).toMatchObject({ code: 'forbidden' });
    const group = await place.db.transaction((tx) => addGroup(tx, who, { name: 'Fares', claim: null, memberIds: [] }));
    const made = await add({ groupIds: [group.id], grants: [{ role: 'editor', domainId }] });
    expect(made).toMatchObject({ groups: [{ name: 'Fares' }], grants: [{ role: 'editor', domain: 'Travel' }] });
    expect((await loadWho(place.db, made.id))?.is('editor', domainId)).toBe(true);
    const { name, email, job } = made as { name: string; email: string; job: string };
    const changed = await change(made.id, made.version, {
      name,
      email,
      job,
      groupIds: [],
      grants: [{ role: 'reader', domainId: null }],
    });
    expect(changed).toMatchObject({ groups: [], grants: [{ role: 'reader', domain: null }], version: 2 });
    expect((await loadWho(place.db, made.id))?.is('editor', domainId)).toBe(false);
    const [told] = await place.db.rows<{ before: object; after: object }>(
      "select before, after from journal where subject_kind = 'person' order by id desc limit 1",
    );
    expect(told).toEqual({
      before: { groups: ['Fares'], roles: ['editor in Travel'] },
      after: { groups: [], roles: ['reader everywhere'] },
    });
    expect(await refused(change(made.id, 1, body()))).toMatchObject({ code: 'changed-meanwhile' });
  });

  it('have an address and a name of their own; what is not there is named', async () => {
    const made = await add();
    expect(await refused(add({ email: (made.email ?? '').toUpperCase() }))).toMatchObject({ code: 'invalid' });
    expect(await refused(add({ name: made.name }))).toMatchObject({ code: 'name-taken' });
    expect(await refused(add({ groupIds: [made.id] }))).toMatchObject({ code: 'invalid' });
    expect(await refused(add({ grants: [{ role: 'reader', domainId: made.id }] }))).toMatchObject({ code: 'invalid' });
    // Addresses are for administrators, and for oneself.
    expect((await getPerson(place.db, steward, made.id)).email).toBeNull();
    expect((await getPerson(place.db, steward, steward.id)).email).toBe('Stella');
  });

  it('never lose the last who administers everything', async () => {
    const me = await getPerson(place.db, who, who.id);
    const { name, email, job } = me as { name: string; email: string; job: string };
    const none = { name, email: email ?? '', job, groupIds: [], grants: [] };
    expect(await refused(change(who.id, me.version, { ...none, email: 'nils@example.org' }))).toMatchObject({
      code: 'last-administrator',
    });
    expect(await refused(go(who.id, null, 0))).toMatchObject({ code: 'last-administrator' });
    expect((await getPerson(place.db, who, who.id)).grants).toHaveLength(1);
  });
});

describe('who leaves', () => {
  it('passes all they hold to another at once, each told in the journal; nobody gets what they might read', async () => {
    const leaver = await personWith(place.db, 'Lea', 'editor', domainId);
    const next = await personWith(place.db, 'Nora', 'editor', domainId);
    const [first, second] = [await asset('leg'), await asset('berth')];
    for (const [id, person, role] of [
      [first, leaver.id, 'steward'],
      [first, next.id, 'steward'],
      [second, leaver.id, 'owner'],
      [second, leaver.id, 'custodian'],
      [second, leaver.id, 'expert'],
    ])
      await place.db.run('insert into asset_person (asset_id, person_id, role) values ($1, $2, $3)', [
        id,
        person,
        role,
      ]);
    await place.db.run('update scheme set owner_id = $1', [leaver.id]);
    await place.db.run("insert into term (name, owner_id, scheme_id) select 'Passenger', $1, id from scheme", [
      leaver.id,
    ]);
    await place.db.run("insert into routine (name, filter, steps, made_by) values ('Nightly', 'x', '[]', $1)", [
      leaver.id,
    ]);
    await place.db.run(
      "insert into saved_search (person_id, name, filter, shared) values ($1, 'Mine', 'x', true), ($1, 'Own', 'x', false), ($2, 'mine', 'x', false)",
      [leaver.id, next.id],
    );
    await place.db.run(
      "insert into kept_view (person_id, asset_id, name, shared, shows) select $1, id, 'Around the berth', true, '{}' from asset limit 1",
      [leaver.id],
    );
    const policy = await one(
      "insert into policy (name, effect, created_by) values ('Reads', 'allow', $1) returning id",
      [who.id],
    );
    await place.db.run('insert into policy_subject (policy_id, person_id) values ($1, $2)', [policy, leaver.id]);
    await place.db.run(
      "insert into session (token_hash, person_id, csrf, expires_at) values ('x', $1, 'c', now() + interval '1 day')",
      [leaver.id],
    );

    expect(await holds(leaver.id)).toEqual([
      ['assets owned', 1],
      ['assets looked after as a steward', 1],
      ['assets kept as a custodian', 1],
      ['assets known as an expert', 1],
      ['schemes of terms', 1],
      ['terms', 1],
      ['routines', 1],
      ['searches shared with everybody', 1],
      ['pictures of lineage shared with everybody', 1],
      ['policies that name them', 1],
    ]);
    expect(await refused(go(leaver.id, next.id, 9))).toMatchObject({ code: 'count-changed', current: 10 });
    expect(await refused(go(leaver.id, next.id, 10, steward))).toMatchObject({ code: 'forbidden' });
    expect(await refused(go(leaver.id, leaver.id, 10))).toMatchObject({ code: 'invalid' });
    expect(await go(leaver.id, next.id, 10)).toMatchObject({ leftAt: expect.anything(), groups: [], grants: [] });

    expect(await holds(leaver.id)).toEqual([]);
    expect(await holds(next.id)).toEqual([
      ['assets owned', 1],
      ['assets looked after as a steward', 1],
      ['assets kept as a custodian', 1],
      ['schemes of terms', 1],
      ['terms', 1],
      ['routines', 1],
      ['searches shared with everybody', 1],
      ['pictures of lineage shared with everybody', 1],
    ]);
    expect(await loadWho(place.db, leaver.id)).toBeUndefined();
    expect(await place.db.rows('select from session where person_id = $1', [leaver.id])).toEqual([]);
    const told = await place.db.rows<{ subject_name: string; before: object; after: object }>(
      "select subject_name, before, after from journal where action = 'passed on' order by subject_name, before::text",
    );
    expect(told).toEqual([
      { subject_name: 'Around the berth', before: { 'kept by': 'Lea' }, after: { 'kept by': 'Nora' } },
      { subject_name: 'House glossary', before: { owner: 'Lea' }, after: { owner: 'Nora' } },
      { subject_name: 'Mine', before: { 'kept by': 'Lea' }, after: { 'kept by': 'Nora' } },
      { subject_name: 'Nightly', before: { 'kept by': 'Lea' }, after: { 'kept by': 'Nora' } },
      { subject_name: 'Passenger', before: { owner: 'Lea' }, after: { owner: 'Nora' } },
      { subject_name: 'berth', before: { custodians: ['Lea'] }, after: { custodians: ['Nora'] } },
      { subject_name: 'berth', before: { experts: ['Lea'] }, after: { experts: [] } },
      { subject_name: 'berth', before: { owners: ['Lea'] }, after: { owners: ['Nora'] } },
      { subject_name: 'leg', before: { stewards: ['Lea', 'Nora'] }, after: { stewards: ['Nora'] } },
    ]);
    expect(await refused(go(leaver.id, next.id, 0))).toMatchObject({ code: 'not-found' });
    // What they did stays under their name; coming back, they begin without rights.
    expect(await place.db.transaction((tx) => comeBack(tx, who, leaver.id))).toMatchObject({
      leftAt: null,
      grants: [],
    });
    expect((await loadWho(place.db, leaver.id))?.isAnywhere('reader')).toBe(false);
  });

  it('says of oneself alone that one knows something, as anybody who sees it may; the version stays', async () => {
    const reader = await personWith(place.db, 'Rea', 'reader', domainId);
    const far = await one("insert into domain (name) values ('Far') returning id");
    const stranger = await personWith(place.db, 'Sif', 'reader', far);
    const id = await asset('quay');
    const say = (by: Who, knows: boolean) => place.db.transaction((tx) => knowAsset(tx, by, id, knows));
    const before = await getAsset(place.db, reader, id);
    expect(await say(reader, true)).toMatchObject({ experts: [{ name: 'Rea' }], version: before.version });
    expect(await say(who, true)).toMatchObject({ experts: [{ name: 'Nils Test' }, { name: 'Rea' }] });
    expect(await say(reader, true)).toMatchObject({ experts: [{ name: 'Nils Test' }, { name: 'Rea' }] });
    expect(await say(reader, false)).toMatchObject({ experts: [{ name: 'Nils Test' }] });
    expect(await refused(say(stranger, true))).toMatchObject({ code: 'not-found' });
    expect(await place.db.rows('select before, after from journal where subject_id = $1 order by id', [id])).toEqual([
      { before: { experts: [] }, after: { experts: ['Rea'] } },
      { before: { experts: ['Rea'] }, after: { experts: ['Nils Test', 'Rea'] } },
      { before: { experts: ['Nils Test', 'Rea'] }, after: { experts: ['Nils Test'] } },
    ]);
  });

  it('may leave it to nobody: then it waits for an owner; and cannot sign in', async () => {
    const leaver = await add({ grants: [{ role: 'reader', domainId: null }] });
    const id = await asset('leg');
    await place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [
      id,
      leaver.id,
    ]);
    await place.db.run("insert into saved_search (person_id, name, filter, shared) values ($1, 'Mine', 'x', true)", [
      leaver.id,
    ]);
    await go(leaver.id, null, 2);
    expect(await place.db.rows('select from asset_person')).toEqual([]);
    expect(await place.db.rows('select from saved_search where removed_at is null')).toEqual([]);
    expect(await refused(personByPassword(place.db, leaver.email ?? '', 'x', null))).toMatchObject({
      code: 'wrong-sign-in',
    });
    expect(await refused(change(leaver.id, 2, body()))).toMatchObject({ code: 'invalid' });
  });
});

it('groups are kept by administrators, and stay while a policy or a tag names them', async () => {
  const group = await place.db.transaction((tx) =>
    addGroup(tx, who, { name: 'Crew', claim: null, memberIds: [steward.id] }),
  );
  expect(group.members).toEqual([steward.id]);
  const put = (version: number, name: string, by = who) =>
    place.db.transaction((tx) => changeGroup(tx, by, group.id, version, { name, claim: null, memberIds: [] }));
  expect(await refused(put(1, 'x', steward))).toMatchObject({ code: 'forbidden' });
  expect(await put(1, 'Crewing')).toMatchObject({ name: 'Crewing', members: [], version: 2 });
  expect(await refused(put(1, 'x'))).toMatchObject({ code: 'changed-meanwhile' });
  const destroy = () => place.db.transaction((tx) => removeGroup(tx, who, group.id));
  const tag = await one("insert into tag (name, group_ids) values ('gdpr', array[$1::uuid]) returning id", [group.id]);
  expect(await refused(destroy())).toMatchObject({ code: 'still-used', detail: 'The tag “gdpr” names the group.' });
  await place.db.run('delete from tag where id = $1', [tag]);
  const policy = await one("insert into policy (name, effect, created_by) values ('Reads', 'allow', $1) returning id", [
    who.id,
  ]);
  await place.db.run('insert into policy_subject (policy_id, group_id) values ($1, $2)', [policy, group.id]);
  expect(await refused(destroy())).toMatchObject({ code: 'still-used' });
  await place.db.run('delete from policy_subject');
  await destroy();
  expect(await place.db.rows('select from person_group where id = $1', [group.id])).toEqual([]);
});

it('sessions are listed for whom they are of, and ended one by one, or all but one, with all that goes on in them', async () => {
  const hashes = ['a', 'b', 'c'].map((letter) => Buffer.from(letter.repeat(32)));
  for (const hash of hashes)
    await place.db.run(
      "insert into session (token_hash, person_id, csrf, browser, expires_at) values ($1, $2, 'c', 'Chrome 130, Linux', now() + interval '1 day')",
      [hash, steward.id],
    );
  await place.db.run(
    "insert into session (token_hash, person_id, csrf, expires_at) values ('old', $1, 'c', now() - interval '1 day')",
    [steward.id],
  );
  const here = hashes[0]?.toString('hex') ?? '';
  const listed = await listSessions(place.db, steward, here);
  expect(listed.map((session) => session.here).sort()).toEqual([false, false, true]);
  const other = listed.find((session) => !session.here)?.id ?? '';
  // Nobody ends a session of somebody else.
  expect(await endSessions(place.db, who.id, other)).toBe(0);
  expect(await endSessions(place.db, steward.id, other)).toBe(1);
  expect(await listSessions(place.db, steward, here)).toHaveLength(2);
  expect(await endSessions(place.db, steward.id, null, here)).toBe(2); // with the one that is over
  expect((await listSessions(place.db, steward, here)).map((session) => session.here)).toEqual([true]);
});

describe('a directory file', () => {
  const bytes = (text: string) => Buffer.from(text).toString('base64');
  const config = { passwords: true, address: 'http://idrel.example', mail: null } as Config;
  const take = (
    text: string,
    { preview = false, by = who, ...more }: { preview?: boolean; by?: Who; seen?: string } = {},
  ) =>
    importDirectory(
      place.db,
      config,
      by,
      { name: 'people.csv', content: bytes(text), leave: [], invite: false, ...more },
      preview,
    );

  it('is compared first, written as a whole, and told in the history of each person; roles stay', async () => {
    const group = await place.db.transaction((tx) => addGroup(tx, who, { name: 'Deck', claim: null, memberIds: [] }));
    const one = await add({ name: 'Ask', email: 'ask@example.org', grants: [{ role: 'editor', domainId }] });
    const file = 'e-mail,name,job,groups\nask@example.org,Ask,mate,Deck\nembla@example.org,Embla,,Deck | Dek\n';
    expect(await refused(take(file, { by: steward }))).toMatchObject({ code: 'forbidden' });
    const seen = await take(file, { preview: true });
    expect(seen).toMatchObject({
      freshCount: 1,
      changedCount: 1,
      written: false,
      flaws: [{ what: 'There is no group “Dek”.' }],
    });
    expect(await getPerson(place.db, who, one.id)).toMatchObject({ job: one.job });
    await place.db.run("update person set name = 'Askr', version = version + 1 where id = $1", [one.id]);
    expect(await refused(take(file, { seen: seen.seen }))).toMatchObject({ code: 'differs-now' });
    expect(await take(file)).toMatchObject({ freshCount: 1, changedCount: 1, written: true, invited: 0 });
    expect(await getPerson(place.db, who, one.id)).toMatchObject({
      name: 'Ask',
      job: 'mate',
      groups: [{ id: group.id }],
      grants: [{ role: 'editor', domain: 'Travel' }],
    });
    const told = await place.db.rows<{ action: string }>(
      "select action from journal where subject_name in ('Ask', 'Embla') and subject_kind = 'person' order by id",
    );
    expect(told.map(({ action }) => action)).toEqual(['created', 'created', 'edited']);
    // What was taken in is the same when it is taken in again, also by way of a file that Idrel writes.
    expect(await take(file, { preview: true })).toMatchObject({ freshCount: 0, changedCount: 0, same: 2 });
    const { content } = await exportDirectory(place.db, who, 'csv');
    expect(await take(Buffer.from(content, 'base64').toString(), { preview: true })).toMatchObject({
      freshCount: 0,
      changedCount: 0,
    });
  });

  it('that cannot be read, or invites where no mail is set up, changes nothing', async () => {
    const before = await place.db.rows('select from person');
    expect(await refused(take('e-mail,name\n"x'))).toMatchObject({ code: 'invalid' });
    const all = { name: 'people.csv', content: bytes('e-mail,name\nnew@example.org,New'), leave: [], invite: true };
    expect(await refused(importDirectory(place.db, config, who, all, false))).toMatchObject({ code: 'no-mail' });
    expect(await place.db.rows('select from person')).toEqual(before);
  });
});
