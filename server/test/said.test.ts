import { THEMES } from '@idrel/core/recognition';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { POLICY_CLASS_USE } from '../src/access/index.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import type { ApiProblem } from '../src/platform/problems.ts';
import { CERTAINTY_CLASS_USE } from '../src/recognition/certainty.ts';
import { addClass, removeClass, restoreClass } from '../src/recognition/classes.ts';
import { importOwn } from '../src/recognition/detectorFile.ts';
import { changeKinds, getKinds, LEVEL_CLASS_USE } from '../src/recognition/levelRules.ts';
import { OWN_CLASS_USE } from '../src/recognition/own.ts';
import { decideFindings, FINDING_CLASS_USE } from '../src/recognition/service.ts';
import { switchDetectors } from '../src/recognition/switching.ts';
import { ROUTINE_CLASS_USE } from '../src/routines/index.ts';
import { addRoutine, removeRoutine } from '../src/routines/service.ts';
import { addPolicy, freshDatabase, furnish } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof furnish>>;
let who: Who;
let mara: Who;
let column: string;
const one = async (sql: string, bind: unknown[] = []) => (await place.db.rows<{ id: string }>(sql, bind))[0]?.id ?? '';
const USES = [
  POLICY_CLASS_USE,
  ROUTINE_CLASS_USE,
  LEVEL_CLASS_USE,
  OWN_CLASS_USE,
  CERTAINTY_CLASS_USE,
  FINDING_CLASS_USE,
];

beforeAll(async () => {
  place = await freshDatabase();
  home = await furnish(place.db);
  who = (await loadWho(place.db, home.personId)) as Who;
  const other = await one("insert into person (name, email) values ('Mara', 'mara@example.org') returning id");
  await place.db.run("insert into role_grant (person_id, role) values ($1, 'steward')", [other]);
  mara = (await loadWho(place.db, other)) as Who;
  const table = await one(
    "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'table', 't', 't', 0) returning id",
    [home.sourceId, home.domainId],
  );
  column = await one(
    `insert into asset (source_id, domain_id, parent_id, kind, name, key, depth, native) values ($1, $2, $3, 'column', 'mail', 't/mail', 1, '{"type": "text"}') returning id`,
    [home.sourceId, home.domainId, table],
  );
});
afterAll(() => place.drop());

const refused = (work: Promise<unknown>) =>
  work.then(
    () => undefined,
    ({ status, code, message }: ApiProblem) => ({ status, code, detail: message }),
  );
type Decisions = Parameters<typeof decideFindings>[2];
const decide = (person: Who, more: Partial<Decisions[number]>) =>
  place.db.transaction((tx) =>
    decideFindings(tx, person, [{ assetId: column, classKey: 'email', decision: 'confirmed', reason: '', ...more }]),
  );
const journal = (kind: string) =>
  place.db.rows<{ action: string; after: object | null }>(
    'select action, after from journal where subject_kind = $1 order by id',
    [kind],
  );

describe('a decision on a finding', () => {
  it('that somebody made since it was seen is not written over', async () => {
    const first = await decide(who, { seen: null, reason: 'Seen in the form' });
    expect(first).toMatchObject({ decided: 1, before: [{ decision: 'open', reason: '', remembered: false }] });
    expect(await refused(decide(mara, { decision: 'dismissed', seen: null }))).toEqual({
      status: 409,
      code: 'decided-meanwhile',
      detail:
        'Nils Test has confirmed E-mail address in t/mail since you saw it: “Seen in the form”. Nothing of yours was saved.',
    });
    // Who saw it may decide otherwise; who says nothing of what they saw, too.
    const second = await decide(mara, { decision: 'dismissed', seen: first.at, reason: 'No address' });
    expect(second.before).toEqual([
      { assetId: column, classKey: 'email', decision: 'confirmed', reason: 'Seen in the form', remembered: false },
    ]);
    // Undone, what stood there before stands again, with its reason.
    const [before] = second.before;
    const undone = await decide(mara, { decision: before?.decision, reason: before?.reason, seen: second.at });
    expect(
      await place.db.one('select decision, reason from finding_decision where asset_id = $1 and class_key = $2', [
        column,
        'email',
      ]),
    ).toEqual({ decision: 'confirmed', reason: 'Seen in the form' });
    await decide(who, { decision: 'open', seen: undone.at });
    expect((await journal('finding')).map(({ action }) => action)).toEqual([
      'confirmed',
      'dismissed',
      'confirmed',
      'reopened',
    ]);
  });

  it('that two make at once is made by one', async () => {
    const both = await Promise.all([who, mara].map((person) => refused(decide(person, { seen: null }))));
    expect(both.filter((problem) => problem === undefined)).toHaveLength(1);
    expect(both.flatMap((problem) => problem ?? [])).toMatchObject([{ status: 409, code: 'decided-meanwhile' }]);
    await decide(who, { decision: 'open' });
  });

  it('is remembered, stays so when it is not spoken of, and is forgotten when that is said', async () => {
    const remembered = async () =>
      (await place.db.one<{ n: number }>('select count(*)::int as n from remembered_dismissal'))?.n;
    const first = await decide(who, { decision: 'dismissed', remember: true, reason: 'Desks' });
    expect([first.before[0]?.remembered, await remembered()]).toEqual([false, 1]);
    const second = await decide(who, { decision: 'confirmed' });
    expect([second.before[0]?.remembered, await remembered()]).toEqual([true, 1]);
    await decide(who, { decision: 'open', remember: false });
    expect(await remembered()).toBe(0);
    expect((await journal('dismissal')).map(({ action }) => action)).toEqual(['remembered', 'forgotten']);
  });
});

describe('a data class that goes', () => {
  const body = {
    label: 'Berth code',
    theme: THEMES[0] as string,
    level: 2,
    meaning: '',
    legalBasis: '',
    synonyms: [],
    parentKey: null,
    travels: ['copied' as const],
  };
  const remove = (key: string, seen = 0) => place.db.transaction((tx) => removeClass(tx, who, key, seen, USES));

  it('asks whatever names it first, and leaves nothing behind', async () => {
    const made = await place.db.transaction((tx) => addClass(tx, who, body));
    const { key } = made;
    const policy = await addPolicy(place.db, {
      name: 'Guards',
      effect: 'protect',
      mask: { kind: 'digest', keyed: 'installation' },
      classKeys: [key],
    });
    expect(await refused(remove(key))).toMatchObject({
      code: 'class-guards',
      detail: expect.stringContaining('“Guards” rests on'),
    });
    await place.db.run('delete from policy where id = $1', [policy]);
    // Within other conditions, in any writing: what reads filters finds it.
    const routine = await place.db.transaction((tx) =>
      addRoutine(tx, who, {
        name: 'Finds berths',
        filter: `kind:column (class:email,"${key.toUpperCase()}" or not owner:any)`,
        steps: [{ do: 'act', action: { kind: 'owner', id: home.personId } }],
        starts: null,
        guard: { most: null, times: 3 },
        enabled: true,
      }),
    );
    expect(await refused(remove(key))).toMatchObject({ code: 'class-searched' });
    await place.db.transaction((tx) => removeRoutine(tx, who, routine.id));
    await decide(who, { classKey: key, decision: 'confirmed' });
    expect(await refused(remove(key))).toMatchObject({ code: 'count-changed' });
    await remove(key, 1);
    for (const table of ['data_class where key', 'finding_decision where class_key', 'claim where class_key'])
      expect(await place.db.rows(`select 1 from ${table} = $1`, [key])).toEqual([]);
    expect((await journal('data class')).map(({ action }) => action)).toEqual(['created', 'removed']);
  });

  it('and ships with Idrel is retired with its detectors, and can be taken into use again', async () => {
    await remove('iban');
    expect(await place.db.rows("select detector_id from detector_off where detector_id like '%iban%'")).not.toEqual([]);
    expect(await refused(place.db.transaction((tx) => restoreClass(tx, who, 'email')))).toMatchObject({
      code: 'not-retired',
    });
    const back = await place.db.transaction((tx) => restoreClass(tx, who, 'iban'));
    expect(back.retired).toBe(false);
    expect(await place.db.rows("select detector_id from detector_off where detector_id like '%iban%'")).toEqual([]);
    expect((await journal('data class')).slice(-2).map(({ action }) => action)).toEqual(['retired', 'restored']);
  });

  it('or that comes with a file is held to what holds for one that is written by hand', async () => {
    const file = (...classes: object[]) => ({ kind: 'idrel detectors', version: 1, classes, detectors: [] });
    const bring = (...classes: object[]) =>
      refused(place.db.transaction((tx) => importOwn(tx, who, file(...classes) as never, false)));
    const entry = (key: string, parentKey: string | null, more: object = {}) => ({
      ...body,
      key,
      label: `Class ${key}`,
      parentKey,
      ...more,
    });
    expect(await bring(entry('own-a', 'own-b'), entry('own-b', 'own-a'))).toMatchObject({
      status: 422,
      detail: '“Class own-a”, “Class own-b” lie below each other in a circle.',
    });
    expect(await bring(entry('own-a', null, { theme: 'nothing known' }))).toMatchObject({ status: 422 });
    expect(await bring(entry('own-a', null, { label: 'E-mail address' }))).toMatchObject({ code: 'name-taken' });
    // One that lies below another may stand before it.
    expect(await bring(entry('own-b', 'own-a'), entry('own-a', null))).toBeUndefined();
    expect(
      await place.db.rows("select key, parent_key as above from data_class where key like 'own-_' order by 1"),
    ).toEqual([
      { key: 'own-a', above: null },
      { key: 'own-b', above: 'own-a' },
    ]);
  });
});

describe('what is switched or chosen for all', () => {
  it('is told once: a detector that is off already is not switched off again', async () => {
    const off = (isOff: boolean) => place.db.transaction((tx) => switchDetectors(tx, who, ['email.address'], isOff));
    await off(true);
    await off(true);
    await off(false);
    expect((await journal('detector')).filter(({ action }) => action.startsWith('switched'))).toEqual([
      { action: 'switched off', after: { detectors: 'email.address' } },
      { action: 'switched on', after: { detectors: 'email.address' } },
    ]);
  });

  it('kinds of levels have a version like any other thing', async () => {
    const { version, kinds } = await getKinds(place.db);
    const change = (seen: number, next: readonly string[]) =>
      place.db.transaction((tx) => changeKinds(tx, who, seen, next));
    expect((await change(version, ['table'])).version).toBe(version + 1);
    expect(await refused(change(version, kinds))).toMatchObject({ status: 412 });
    expect((await change(version + 1, kinds)).kinds).toEqual(kinds);
    expect((await journal('level')).map(({ after }) => after)).toEqual([
      { kinds: 'table' },
      { kinds: kinds.join(', ') },
    ]);
  });
});
