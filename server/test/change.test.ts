import type { PolicyBody } from '@idrel/contract/access';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { changePolicy, createPolicy, listPolicies, removePolicy } from '../src/access/policies.ts';
import { addTerm, changeTerm } from '../src/glossary/index.ts';
import { forgetEvents, record, service } from '../src/journal/index.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { addRoutine, bringBackRoutine, changeRoutine, listRoutines, removeRoutine } from '../src/routines/service.ts';
import { removeSource } from '../src/sources/service.ts';
import { freshDatabase, furnish, policyBody, refused } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof furnish>>;
let who: Who;
let stranger: Who;
const one = async (sql: string, bind: unknown[] = []) => (await place.db.rows<{ id: string }>(sql, bind))[0]?.id ?? '';

beforeAll(async () => {
  place = await freshDatabase();
  home = await furnish(place.db);
  who = (await loadWho(place.db, home.personId)) as Who;
  const other = await one("insert into person (name, email) values ('Ida', 'ida@example.org') returning id");
  await place.db.run("insert into role_grant (person_id, role) values ($1, 'editor')", [other]);
  stranger = (await loadWho(place.db, other)) as Who;
});
afterAll(() => place.drop());

interface Entry {
  action: string;
  subject_kind: string;
  before: object | null;
  after: object | null;
  events: number;
}
const entriesOf = (id: string) =>
  place.db.rows<Entry>(
    `select j.action, j.subject_kind, j.before, j.after,
            (select count(*)::int from event e where e.journal_id = j.id and e.action = j.action and e.subject_kind = j.subject_kind) as events
     from journal j where j.subject_id = $1 order by j.id`,
    [id],
  );

const PRICE = { kind: 'alternative', language: 'en', text: 'Price' } as const;

describe('a thing', () => {
  it('is made, changed and told of, once each, with an event beside each entry', async () => {
    const made = await place.db.transaction((tx) => addTerm(tx, who, { name: 'Fare', labels: [PRICE] }));
    expect(made).toMatchObject({ name: 'Fare', labels: [PRICE], status: 'draft', version: 1 });
    const changed = await place.db.transaction((tx) =>
      changeTerm(tx, who, made.id, 1, { definition: 'What it costs.' }),
    );
    expect(changed).toMatchObject({ name: 'Fare', definition: 'What it costs.', version: 2 });
    expect(await entriesOf(made.id)).toEqual([
      {
        action: 'created',
        subject_kind: 'term',
        before: null,
        after: expect.objectContaining({ name: 'Fare' }),
        events: 1,
      },
      {
        action: 'edited',
        subject_kind: 'term',
        before: { definition: '' },
        after: { definition: 'What it costs.' },
        events: 1,
      },
    ]);
  });

  it('that is saved as it stands stays what it is: no version, no entry', async () => {
    const made = await place.db.transaction((tx) => addTerm(tx, who, { name: 'Berth', labels: [PRICE] }));
    const again = await place.db.transaction((tx) =>
      changeTerm(tx, who, made.id, 1, { name: 'Berth', labels: [PRICE] }),
    );
    expect(again.version).toBe(1);
    expect(await entriesOf(made.id)).toHaveLength(1);
  });

  it('that two change at once is changed by one; the other is told what stands there now', async () => {
    const { id } = await place.db.transaction((tx) => addTerm(tx, who, { name: 'Deck' }));
    const both = await Promise.all(
      [who, stranger].map((person) =>
        refused(place.db.transaction((tx) => changeTerm(tx, person, id, 1, { definition: `by ${person.name}` }))),
      ),
    );
    const [late] = both.flatMap((problem) => problem ?? []);
    expect(both.filter((problem) => problem === undefined)).toHaveLength(1);
    expect(late).toMatchObject({ status: 412, code: 'changed-meanwhile', current: { version: 2 } });
    expect(await entriesOf(id)).toHaveLength(2);
  });

  it('whose name is taken is refused in words, and nothing is written', async () => {
    const { id } = await place.db.transaction((tx) => addTerm(tx, who, { name: 'Quay' }));
    await place.db.transaction((tx) => addTerm(tx, who, { name: 'Wharf' }));
    for (const work of [
      place.db.transaction((tx) => addTerm(tx, who, { name: 'Wharf' })),
      place.db.transaction((tx) => changeTerm(tx, who, id, 1, { name: 'Wharf' })),
    ])
      expect(await refused(work)).toMatchObject({
        status: 409,
        detail: 'There already is a term named “Wharf” in House glossary.',
      });
    expect(await entriesOf(id)).toHaveLength(1);
  });

  it('can be removed and brought back where it leaves its row, unless its name was taken', async () => {
    const body = {
      name: 'Owned',
      filter: 'owner:none',
      steps: [{ do: 'act', action: { kind: 'owner', id: home.personId } }],
      starts: null,
      guard: { most: null, times: 3 },
      enabled: true,
    } as const;
    const { id } = await place.db.transaction((tx) => addRoutine(tx, who, body));
    expect(await refused(place.db.transaction((tx) => changeRoutine(tx, stranger, id, 1, body)))).toMatchObject({
      status: 403,
    });
    await place.db.transaction((tx) => removeRoutine(tx, who, id));
    expect(await listRoutines(place.db, who)).toEqual([]);
    expect(await refused(place.db.transaction((tx) => removeRoutine(tx, who, id)))).toMatchObject({ status: 404 });
    expect(await refused(place.db.transaction((tx) => bringBackRoutine(tx, stranger, id)))).toMatchObject({
      status: 403,
    });
    const other = await place.db.transaction((tx) => addRoutine(tx, who, body));
    expect(await refused(place.db.transaction((tx) => bringBackRoutine(tx, who, id)))).toMatchObject({ status: 409 });
    await place.db.transaction((tx) => removeRoutine(tx, who, other.id));
    expect(await place.db.transaction((tx) => bringBackRoutine(tx, who, id))).toMatchObject({ id, name: 'Owned' });
    expect(await refused(place.db.transaction((tx) => bringBackRoutine(tx, who, id)))).toMatchObject({ status: 404 });
    expect((await entriesOf(id)).map((entry) => entry.action)).toEqual(['created', 'removed', 'brought back']);
  });
});

describe('who acts', () => {
  it('is told by name where it is a service, and there is no entry by nobody', async () => {
    await place.db.transaction((tx) =>
      record(tx, service('plan Nightly'), 'scanned', { kind: 'source', id: 'x', name: 'X', domainId: null }, null, {
        new: 1,
      }),
    );
    expect(
      await place.db.one("select principal_kind, principal, person_id from journal where subject_id = 'x'"),
    ).toEqual({
      principal_kind: 'service',
      principal: 'plan Nightly',
      person_id: null,
    });
    await expect(
      place.db.run(
        "insert into journal (action, subject_kind, subject_id, subject_name) values ('a', 'source', 'y', 'Y')",
      ),
    ).rejects.toThrow('journal_has_principal');
  });
});

describe('events', () => {
  it('wait for ninety days for whoever listens; the journal keeps what they told', async () => {
    await place.db.transaction((tx) => addTerm(tx, who, { name: 'Old' }));
    const count = async (table: string) =>
      (await place.db.one<{ n: number }>(`select count(*)::int as n from ${table}`))?.n;
    const [events, entries] = [await count('event'), await count('journal')];
    await place.db.run("update event set at = now() - interval '91 days' where id = (select min(id) from event)");
    expect(await forgetEvents(place.db)).toBe(1);
    expect(await forgetEvents(place.db)).toBe(0);
    expect([await count('event'), await count('journal')]).toEqual([(events ?? 0) - 1, entries]);
  });
});

describe('a policy', () => {
  const body = (more: Partial<PolicyBody>) => policyBody({ name: 'Reads', effect: 'allow', everyone: false, ...more });
  const asset = (source: string, name: string) =>
    one(
      "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'table', $3, $3, 0) returning id",
      [source, home.domainId, name],
    );

  it('has its people and its assets as rows: a change of these alone is a change of it', async () => {
    const table = await asset(home.sourceId, 'rows');
    const made = await place.db.transaction((tx) =>
      createPolicy(tx, who, body({ personIds: [who.id], assetIds: [table], classKeys: ['email', 'phone'] })),
    );
    expect(made).toMatchObject({ personIds: [who.id], assetIds: [table], classKeys: ['email', 'phone'], version: 1 });
    const next = body({ personIds: [who.id, stranger.id], assetIds: [table], classKeys: ['phone'] });
    const changed = await place.db.transaction((tx) => changePolicy(tx, who, made.id, 1, next));
    expect(changed.version).toBe(2);
    expect([...changed.personIds].sort()).toEqual([who.id, stranger.id].sort());
    expect(changed.classKeys).toEqual(['phone']);
    expect((await entriesOf(made.id))[1]).toMatchObject({
      before: { classes: ['email', 'phone'] },
      after: { classes: ['phone'] },
    });
    const same = await place.db.transaction((tx) => changePolicy(tx, who, made.id, 2, next));
    expect(same.version).toBe(2);
    // Whom a policy names cannot go behind its back.
    await expect(place.db.run('delete from person where id = $1', [stranger.id])).rejects.toThrow();
    await place.db.transaction((tx) => removePolicy(tx, who, made.id));
    expect(await place.db.rows('select 1 from policy_subject union all select 1 from policy_object')).toEqual([]);
  });

  it('whose last asset goes with its source is switched off: it never comes to hold for a class everywhere', async () => {
    const source = await one(
      `insert into source (name, kind, address, domain_id) values ('Leaving', 'postgresql', '{"host": "x"}', $1) returning id`,
      [home.domainId],
    );
    const [goes, stays] = [await asset(source, 'goes'), await asset(home.sourceId, 'stays')];
    const narrow = await place.db.transaction((tx) =>
      createPolicy(tx, who, body({ name: 'Narrow', everyone: true, assetIds: [goes], classKeys: ['email'] })),
    );
    const both = await place.db.transaction((tx) =>
      createPolicy(tx, who, body({ name: 'Both', everyone: true, assetIds: [goes, stays], classKeys: ['email'] })),
    );
    // Taken out of the list by whoever changes it: no asset is gone, and the policy stays on.
    const widened = await place.db.transaction((tx) =>
      createPolicy(tx, who, body({ name: 'Wide', everyone: true, assetIds: [stays], classKeys: ['email'] })),
    );
    await place.db.transaction((tx) =>
      changePolicy(tx, who, widened.id, 1, body({ name: 'Wide', everyone: true, classKeys: ['email'] })),
    );
    await place.db.transaction((tx) => removeSource(tx, who, source, 1));
    const found = new Map((await listPolicies(place.db, who)).map((policy) => [policy.id, policy]));
    expect(found.get(narrow.id)).toMatchObject({ enabled: false, assetIds: [], version: 2 });
    expect(found.get(both.id)).toMatchObject({ enabled: true, assetIds: [stays] });
    expect(found.get(widened.id)).toMatchObject({ enabled: true, assetIds: [] });
  });
});
