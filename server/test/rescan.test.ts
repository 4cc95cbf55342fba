import type { Finding } from '@idrel/core/recognition';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { editAsset } from '../src/curation/index.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { freshDatabase, furnish } from './place.ts';
import { scanWorld, toStructure, type World } from './world.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof furnish>>;
let who: Who;
let termId: string;

beforeAll(async () => {
  place = await freshDatabase();
  // What is asked before an asset is trusted has tests of its own.
  await place.db.run('delete from checklist');
  home = await furnish(place.db);
  who = (await loadWho(place.db, home.personId)) as Who;
  termId =
    (
      await place.db.rows<{ id: string }>(
        "insert into term (name, scheme_id) values ('Traveller', (select id from scheme)) returning id",
      )
    )[0]?.id ?? '';
});
afterAll(() => place.drop());

const emailFinding = (share: number): Finding => ({
  classKey: 'email',
  label: 'E-mail address',
  detector: 'email.address',
  version: '1',
  share,
  matched: 9,
  sampled: 10,
  distinct: 9,
  confidence: 0.97,
  state: 'certain',
  name: { verdict: 'neutral', words: [] },
  terms: [],
  examples: [],
});

function scan(world: World) {
  const findings = new Map(
    toStructure(world)
      .assets.filter((entry) => entry.kind === 'column' && entry.native.type === 'text')
      .map((entry) => [entry.key, [emailFinding(0.9)]]),
  );
  return scanWorld(place.db, home, world, findings);
}

const assets = () =>
  place.db.rows<{ id: string; key: string; version: number; gone: boolean }>(
    'select id, key, version, gone_at is not null as gone from asset where source_id = $1',
    [home.sourceId],
  );
/** Everything people said, by asset. */
const said = () =>
  place.db.rows(
    `select a.key, a.description, a.standing, a.level_set, a.level_reason, a.version, (select json_agg(person_id order by role) from asset_person where asset_id = a.id) as people, (select json_agg(term_id) from asset_term where asset_id = a.id) as terms,
     (select json_agg(json_build_array(class_key, decision, reason) order by class_key) from finding_decision where asset_id = a.id) as decisions from asset a where a.source_id = $1 order by a.key`,
    [home.sourceId],
  );

const world: fc.Arbitrary<World> = fc.dictionary(
  fc.constantFrom('t1', 't2', 't3', 't4'),
  fc.dictionary(fc.constantFrom('a', 'b', 'c', 'd e', 'ö"x'), fc.constantFrom('text', 'integer', 'date'), {
    noNullPrototype: true,
  }),
  { noNullPrototype: true },
);
const wish = fc.record({
  at: fc.nat(),
  description: fc.option(fc.string({ maxLength: 30 })),
  standing: fc.constantFrom('unreviewed', 'reviewed', 'trusted'),
  owned: fc.boolean(),
  term: fc.boolean(),
  decision: fc.constantFrom('confirmed', 'dismissed', null),
});

describe('what people wrote', () => {
  it('survives every re-scan, whatever appears, changes, goes and comes back', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(world, fc.array(wish, { maxLength: 4 })), { minLength: 2, maxLength: 6 }),
        async (rounds) => {
          await place.db.run('delete from asset where source_id = $1', [home.sourceId]);
          for (const [found, wishes] of rounds) {
            const before = await said();
            await scan(found);
            const after = new Map((await said()).map((row) => [(row as { key: string }).key, row]));
            for (const row of before) expect(after.get((row as { key: string }).key)).toEqual(row);
            const there = new Set(toStructure(found).assets.map((entry) => entry.key));
            for (const entry of await assets()) expect(entry.gone).toBe(!there.has(entry.key));
            const list = await assets();
            for (const { at, description, standing, owned, term, decision } of wishes) {
              const target = list[at % list.length];
              if (!target) continue;
              const [now] = await place.db.rows<{ version: number }>('select version from asset where id = $1', [
                target.id,
              ]);
              await place.db.transaction((tx) =>
                editAsset(tx, who, target.id, now?.version ?? 0, {
                  description,
                  standing,
                  ownerIds: owned ? [home.personId] : [],
                  termIds: term ? [termId] : [],
                }),
              );
              if (decision)
                await place.db.run(
                  "insert into finding_decision (asset_id, class_key, decision, decided_by) values ($1, 'email', $2, $3) on conflict (asset_id, class_key) do update set decision = excluded.decision",
                  [target.id, decision, home.personId],
                );
            }
          }
        },
      ),
      { numRuns: 25 },
    );
  });

  it('is found again by its words after a re-scan', async () => {
    await place.db.run('delete from asset where source_id = $1', [home.sourceId]);
    await scan({ t1: { a: 'text' } });
    const table = (await assets()).find((entry) => entry.key.endsWith('t1'));
    await place.db.transaction((tx) =>
      editAsset(tx, who, table?.id ?? '', table?.version ?? 0, { description: 'Rückfahrkarten' }),
    );
    await scan({ t1: { a: 'date', b: 'text' } });
    expect(await place.db.rows("select name from asset where words @@ '''ruckfahrk'':* & ''b'''::tsquery", [])).toEqual(
      [{ name: 't1' }],
    );
  });
});

describe('the comparison with the run before', () => {
  it('says what is new, changed (what exactly), gone and back', async () => {
    await place.db.run('delete from asset where source_id = $1', [home.sourceId]);
    expect((await scan({ t1: { a: 'text', b: 'text' }, t2: { a: 'date' } })).first).toBe(true);
    const second = await scan({ t1: { a: 'integer', c: 'text' } });
    expect(second.counts).toEqual({ new: 1, changed: 1, gone: 3, back: 0 });
    expect(second.changed.map((entry) => [entry.path, entry.what])).toEqual([['db.s.t1.a', ['type: text → integer']]]);
    const third = await scan({ t1: { a: 'integer', b: 'text' } });
    expect(third.counts).toEqual({ new: 0, changed: 0, gone: 1, back: 1 });
    expect((await scan({ t1: { a: 'integer', b: 'text' } })).counts).toEqual({ new: 0, changed: 0, gone: 0, back: 0 });
  });

  it('lets a level follow from classes, rise to the table, and fall when a finding is dismissed', async () => {
    await place.db.run('delete from asset where source_id = $1', [home.sourceId]);
    await scan({ t1: { a: 'text', b: 'date' } });
    const levels = () =>
      place.db.rows('select name, level from asset where source_id = $1 and depth >= 2 order by depth, name', [
        home.sourceId,
      ]);
    expect(await levels()).toEqual([
      { name: 't1', level: 3 },
      { name: 'a', level: 3 },
      { name: 'b', level: null },
    ]);
    await place.db.run(
      "insert into finding_decision (asset_id, class_key, decision, decided_by) select id, 'email', 'dismissed', $2 from asset where source_id = $1 and name = 'a'",
      [home.sourceId, home.personId],
    );
    await scan({ t1: { a: 'text', b: 'date' } });
    expect(await levels()).toEqual([
      { name: 't1', level: null },
      { name: 'a', level: null },
      { name: 'b', level: null },
    ]);
  });
});
