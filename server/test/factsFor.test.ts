import type { PolicyBody } from '@idrel/contract/access';
import { decideTable } from '@idrel/core/access';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { factsFor, policiesInForce, readPeople, readTables } from '../src/access/facts.ts';
import { addPolicy, freshDatabase, furnish } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
const ids = new Map<string, string>();
const idOf = (key: string) => ids.get(key) ?? '';
const TABLES = ['d/s1/t1', 'd/s1/t2', 'd/s2/t3'];
const COLUMNS = TABLES.flatMap((table) => [`${table}/a`, `${table}/b`]);
const PLACES = ['d', 'd/s1', 'd/s2', ...TABLES, ...COLUMNS];
const CLASSES = ['email', 'iban', 'age'];
const PEOPLE = ['nils', 'ida', 'per'];
const GROUPS = ['crew', 'office'];

beforeAll(async () => {
  place = await freshDatabase();
  const home = await furnish(place.db);
  const one = async (key: string, sql: string, bind: unknown[]) =>
    ids.set(key, (await place.db.rows<{ id: string }>(sql, bind))[0]?.id ?? '');
  for (const key of PLACES.toSorted((a, b) => a.length - b.length)) {
    const names = key.split('/');
    const kind = ['database', 'schema', 'table', 'column'][names.length - 1];
    await one(
      key,
      'insert into asset (source_id, parent_id, domain_id, kind, name, key, depth) values ($1, $2, $3, $4, $5, $6, $7) returning id',
      [
        home.sourceId,
        idOf(names.slice(0, -1).join('/')) || null,
        home.domainId,
        kind,
        names.at(-1),
        names.join('\u001f'),
        names.length - 1,
      ],
    );
  }
  ids.set('nils', home.personId);
  for (const name of ['ida', 'per'])
    await one(name, 'insert into person (name, email) values ($1, $1) returning id', [name]);
  await place.db.run(
    "insert into person_attribute (person_id, key, value) select id, 'port', x from person, unnest(array['Skarn', 'Ulvey']) x where name = any($1)",
    [PEOPLE.slice(0, 2)],
  );
  for (const name of GROUPS) await one(name, 'insert into person_group (name) values ($1) returning id', [name]);
  await place.db.run('insert into group_member (group_id, person_id) values ($1, $2), ($3, $2), ($3, $4)', [
    idOf('crew'),
    idOf('ida'),
    idOf('office'),
    idOf('per'),
  ]);
  // The first column of t3 carries that of t1 on.
  await one(
    'flow',
    "insert into flow (source_id, asset_id, kind, statement) values ($1, $2, 'view', '') returning id",
    [home.sourceId, idOf('d/s2/t3')],
  );
  await place.db.run("insert into lineage_edge (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'copied')", [
    idOf('flow'),
    idOf('d/s1/t1/a'),
    idOf('d/s2/t3/a'),
  ]);
});
afterAll(() => place.drop());

const LIMITS: readonly NonNullable<PolicyBody['rows']>[] = [
  { column: 'a', values: ['x'], attribute: null, through: null },
  { column: 'a', values: [], attribute: 'port', through: null },
];
const policy = fc.record({
  effect: fc.constantFrom('allow', 'allow', 'protect', 'deny'),
  everyone: fc.boolean(),
  groups: fc.subarray(GROUPS),
  people: fc.subarray(PEOPLE),
  exceptGroups: fc.subarray(GROUPS, { maxLength: 1 }),
  assets: fc.subarray(PLACES, { maxLength: 2 }),
  classes: fc.subarray(CLASSES, { maxLength: 2 }),
  carried: fc.boolean(),
  rows: fc.boolean(),
  filter: fc.constantFrom(
    null,
    null,
    null,
    'name:a',
    'kind:table',
    `class:${CLASSES[0]}`,
    'not under:s1',
    'kind:column level:none',
  ),
  limit: fc.nat(LIMITS.length - 1),
  columns: fc.constantFrom(null, null, ['a'], ['a', 'b']),
  columnsBut: fc.boolean(),
  until: fc.constantFrom(null, null, '2026-01-01T00:00:00Z', '2999-01-01T00:00:00Z'),
  enabled: fc.boolean(),
  opens: fc.constantFrom('read', 'read', 'preview'),
  passesOn: fc.boolean(),
  giver: fc.constantFrom(null, null, ...PEOPLE),
});
/** One that opens something, so that there is something to be given on. */
const simple = policy.map((one) => ({
  ...one,
  effect: 'allow' as const,
  exceptGroups: [],
  assets: PLACES.slice(0, 1),
  classes: [],
  filter: null,
  columns: null,
  until: null,
  enabled: true,
  people: PEOPLE.slice(0, 2),
}));
const root = simple.map((one) => ({ ...one, giver: null, passesOn: true, opens: 'read' }));
const gift = fc.tuple(simple, fc.constantFrom(...PEOPLE)).map(([one, giver]) => ({ ...one, people: PEOPLE, giver }));
const carrying = fc.record({ column: fc.constantFrom(...COLUMNS), classKey: fc.constantFrom(...CLASSES) });

let given = 0;
describe('the policies that a decision asks for', () => {
  it('decide as all policies would, for every person and table', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.oneof(policy, policy, root, gift), { maxLength: 7 }),
        fc.array(carrying, { maxLength: 5 }),
        async (policies, classes) => {
          await place.db.run('delete from policy');
          await place.db.run('delete from finding_decision');
          await place.db.run('delete from class_hold');
          for (const { column, classKey } of classes)
            await place.db.run(
              "insert into finding_decision (asset_id, class_key, decision, decided_by) values ($1, $2, 'confirmed', $3) on conflict do nothing",
              [idOf(column), classKey, idOf('nils')],
            );
          for (const [number, drawn] of policies.entries())
            await addPolicy(place.db, {
              name: `P${number}`,
              effect: drawn.effect,
              everyone: drawn.everyone,
              groupIds: drawn.groups.map(idOf),
              personIds: drawn.people.map(idOf),
              exceptGroupIds: drawn.exceptGroups.map(idOf),
              assetIds: drawn.assets.map(idOf),
              classKeys: drawn.classes,
              carried: drawn.carried,
              columns: drawn.columns,
              columnsBut: drawn.columnsBut && drawn.columns !== null,
              mask: drawn.effect === 'protect' && !drawn.rows ? { kind: 'blank' } : null,
              rows: drawn.effect === 'protect' && drawn.rows ? (LIMITS[drawn.limit] ?? null) : null,
              filter: drawn.filter,
              until: drawn.until,
              enabled: drawn.enabled,
              ...(drawn.effect === 'allow'
                ? {
                    opens: drawn.opens as PolicyBody['opens'],
                    passesOn: drawn.passesOn,
                    ...(drawn.giver === null ? {} : { givenBy: idOf(drawn.giver) }),
                  }
                : {}),
              createdBy: idOf('nils'),
            });
          const all = await policiesInForce(place.db);
          const tables = await readTables(place.db, 'true', [], all);
          for (const person of await readPeople(place.db, null)) {
            for (const table of tables) {
              for (const preview of [false, true]) {
                const asking = { personId: person.id, purpose: null, preview };
                const facts = await factsFor(place.db, asking, 't.id = $1', [table.id]);
                const [own] = facts?.tables ?? [];
                if (!facts || !own) throw new Error(`${table.path} is not read`);
                const meant = decideTable(all, { ...person, preview }, table);
                expect(decideTable(facts.policies, facts.person, own)).toEqual(meant);
                given += meant.columns.filter((column) => column.given !== undefined).length;
              }
            }
          }
        },
      ),
      { numRuns: 160 },
    );
    expect(given).toBeGreaterThan(10);
  });
});
