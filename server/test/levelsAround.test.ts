import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { getAsset } from '../src/catalog/index.ts';
import { editAsset } from '../src/curation/index.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { settleAround, tendLevels } from '../src/recognition/levelsAround.ts';
import { decideFindings } from '../src/recognition/service.ts';
import { settleAllLevels } from '../src/recognition/settling.ts';
import { freshDatabase, furnish } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof furnish>>;
let who: Who;
let reports: string;
/** Everything that can have a level, by its key. */
const ids = new Map<string, string>();
const idOf = (key: string) => ids.get(key) ?? '';
const COLUMNS = ['d/s1/t1/a', 'd/s1/t1/b', 'd/s1/t2/a', 'd/s2/t3/a', 'd/s2/t3/b', 'r/one/x', 'r/one/y', 'r/two/z'];
const HOLDERS = ['d', 'd/s1', 'd/s2', 'd/s1/t1', 'd/s1/t2', 'd/s2/t3', 'r', 'r/one', 'r/two'];
const CLASSES = ['email', 'iban', 'age', 'country'];

beforeAll(async () => {
  place = await freshDatabase();
  home = await furnish(place.db);
  who = (await loadWho(place.db, home.personId)) as Who;
  reports =
    (
      await place.db.rows<{ id: string }>(
        "insert into source (name, kind, address, domain_id) values ('Reports', 'reports', '{}', $1) returning id",
        [home.domainId],
      )
    )[0]?.id ?? '';
  const add = async (key: string, kind: string) => {
    const names = key.split('/');
    const [row] = await place.db.rows<{ id: string }>(
      'insert into asset (source_id, parent_id, domain_id, kind, name, key, depth) values ($1, $2, $3, $4, $5, $6, $7) returning id',
      [
        key.startsWith('r') ? reports : home.sourceId,
        names.length > 1 ? idOf(names.slice(0, -1).join('/')) : null,
        home.domainId,
        kind,
        names.at(-1),
        names.join('\u001f'),
        names.length - 1,
      ],
    );
    ids.set(key, row?.id ?? '');
  };
  const kinds: Record<string, string> = {
    d: 'database',
    'd/s1': 'schema',
    'd/s2': 'schema',
    r: 'folder',
    'r/one': 'report',
    'r/two': 'dashboard',
  };
  for (const key of HOLDERS.toSorted((a, b) => a.length - b.length)) await add(key, kinds[key] ?? 'table');
  for (const key of COLUMNS) await add(key, 'column');
  await place.db.run("update level_kinds set kinds = array['table', 'schema', 'report', 'dashboard']");
  await place.db.run("insert into level_rule (name, class_keys, level) values ('both', array['email', 'age'], 4)");
  const flow = async (key: string) =>
    (
      await place.db.rows<{ id: string }>(
        "insert into flow (source_id, asset_id, kind, statement) values ($1, $2, 'view', '') returning id",
        [reports, idOf(key)],
      )
    )[0]?.id;
  const [one, two] = [await flow('r/one'), await flow('r/two')];
  for (const [id, from, to] of [
    [one, 'd/s1/t1/a', 'r/one/x'],
    [one, 'd/s2/t3/a', 'r/one/y'],
    [two, 'r/one/x', 'r/two/z'],
  ] as const)
    await place.db.run("insert into lineage_edge (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'copied')", [
      id,
      idOf(from),
      idOf(to),
    ]);
});
afterAll(() => place.drop());

const step = fc.oneof(
  fc.record({
    column: fc.constantFrom(...COLUMNS),
    classKey: fc.constantFrom(...CLASSES),
    decision: fc.constantFrom('confirmed', 'dismissed', 'open'),
  }),
  fc.record({ asset: fc.constantFrom(...COLUMNS, ...HOLDERS), level: fc.constantFrom(null, 1, 2, 3, 4) }),
);
const found = fc.record({
  column: fc.constantFrom(...COLUMNS),
  classKey: fc.constantFrom(...CLASSES),
  certain: fc.boolean(),
});
const levels = (db: typeof place.db) =>
  db.rows('select key, level_found, level, rises from asset order by source_id, key');

describe('levels after something was said of single assets', () => {
  it('are what working all sources out whole makes of it, whatever is said and in whatever order', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(found, { maxLength: 6 }),
        fc.array(step, { minLength: 1, maxLength: 7 }),
        fc.subarray(['d/s1/t1/b', 'd/s1/t2'], { maxLength: 1 }),
        async (claims, steps, gone) => {
          await place.db.run('delete from claim');
          await place.db.run('delete from finding_decision');
          await place.db.run('delete from class_hold');
          await place.db.run(
            'update asset set level_set = null, gone_at = case when id = any($1::uuid[]) then now() end',
            [gone.map(idOf)],
          );
          for (const { column, classKey, certain } of claims)
            await place.db.run(
              `insert into claim (asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state, evidence)
             values ($1, $2, 'x', '1', 1, 9, 9, 9, $3, $4, '{"name": {"verdict": "neutral", "words": []}, "terms": [], "examples": []}') on conflict do nothing`,
              [idOf(column), classKey, certain ? 0.99 : 0.7, certain ? 'certain' : 'to-settle'],
            );
          await place.db.transaction(settleAllLevels);
          for (const one of steps) {
            if ('column' in one)
              await place.db.transaction((tx) =>
                decideFindings(tx, who, [
                  {
                    assetId: idOf(one.column),
                    classKey: one.classKey,
                    decision: one.decision as 'confirmed',
                    reason: '',
                    remember: false,
                  },
                ]),
              );
            else
              await place.db.transaction(async (tx) => {
                const asset = await getAsset(tx, who, idOf(one.asset));
                await editAsset(tx, who, asset.id, asset.version, { level: one.level, levelReason: 'tried' });
              });
            const told = await levels(place.db);
            await place.db.transaction(settleAllLevels);
            expect(told).toEqual(await levels(place.db));
          }
        },
      ),
      { numRuns: 50 },
    );
  });

  it('follow what travels, also where edges change without anybody asking for levels', async () => {
    for (const table of ['claim', 'finding_decision']) await place.db.run(`delete from ${table}`);
    await place.db.run('update asset set level_set = null');
    await place.db.transaction((tx) => settleAround(tx, [...ids.values()]));
    const level = async (key: string) =>
      (await place.db.one<{ level: number | null }>('select level from asset where id = $1', [idOf(key)]))?.level;
    await place.db.run(
      "insert into finding_decision (asset_id, class_key, decision, decided_by) values ($1, 'email', 'confirmed', $2)",
      [idOf('d/s2/t3/a'), home.personId],
    );
    const [flow] = await place.db.rows<{ id: string }>('select id from flow limit 1');
    const ends = [flow?.id, idOf('d/s2/t3/a'), idOf('d/s1/t1/a')];
    await place.db.run(
      "insert into lineage_edge (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'transformed')",
      ends,
    );
    expect(await level('d/s1/t1/a')).toBeNull();
    await tendLevels(place.db);
    expect([await level('d/s1/t1/a'), await level('d/s1/t1')]).toEqual([3, 3]);
    expect(await place.db.rows('select from travel_moved')).toEqual([]);
    await place.db.run('delete from lineage_edge where (flow_id, from_id, to_id) = ($1, $2, $3)', ends);
    await tendLevels(place.db);
    expect([await level('d/s1/t1/a'), await level('d/s1/t1')]).toEqual([null, null]);
  });

  it('keep the day of the report as a count of it would', async () => {
    const confirm = (column: string, classKey: string) =>
      place.db.transaction((tx) =>
        decideFindings(tx, who, [
          { assetId: idOf(column), classKey, decision: 'confirmed', reason: '', remember: false },
        ]),
      );
    await confirm('d/s1/t1/a', 'email');
    await place.db.run('delete from level_day');
    await place.db.transaction(settleAllLevels);
    await confirm('d/s2/t3/b', 'iban');
    const kept = await place.db.rows(
      'select source_id, kind, level, assets from level_day where assets > 0 order by 1, 2, 3',
    );
    expect(kept).toEqual(
      await place.db.rows(
        'select source_id, kind, coalesce(level, 0) as level, count(*)::int as assets from asset where gone_at is null group by 1, 2, 3 order by 1, 2, 3',
      ),
    );
  });
});
