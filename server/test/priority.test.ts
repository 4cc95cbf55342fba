import { inheritedPriority } from '@idrel/core/lineage';
import fc from 'fast-check';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { getAsset } from '../src/catalog/index.ts';
import { editAsset, settlePriority } from '../src/curation/index.ts';
import {
  addPriorityRule,
  changePriorityRule,
  listPriorityRules,
  previewPriorityRule,
  removePriorityRule,
} from '../src/curation/priority.ts';
import { putBack } from '../src/curation/putBack.ts';
import { freshDatabase, refused, staffed } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof staffed>>;
let flow = '';
const ids = new Map<string, string>();
const id = (name: string) => ids.get(name) as string;
const TABLES = ['raw', 'mart', 'sums', 'report'];
const COLUMNS = TABLES.flatMap((table) => [`${table}.a`, `${table}.b`]);
const holderOf = (column: string) => column.split('.')[0] as string;

beforeAll(async () => {
  place = await freshDatabase();
  home = await staffed(place.db);
  const add = async (name: string, kind: string) => {
    const row = await place.db.one<{ id: string }>(
      'insert into asset (source_id, domain_id, parent_id, kind, name, key, depth) values ($1, $2, $3, $4, $5, $6, 0) returning id',
      [home.sourceId, home.domainId, kind === 'column' ? id(holderOf(name)) : null, kind, name.split('.').at(-1), name],
    );
    ids.set(name, row?.id ?? '');
  };
  for (const table of TABLES) await add(table, table === 'report' ? 'report' : 'table');
  for (const column of COLUMNS) await add(column, 'column');
  flow =
    (
      await place.db.one<{ id: string }>(
        "insert into flow (source_id, kind, statement, origin, key) values ($1, 'load', '', 'pushed', 'f') returning id",
        [home.sourceId],
      )
    )?.id ?? '';
});
afterAll(() => place?.drop());
beforeEach(async () => {
  await place.db.run('delete from lineage_edge');
  await place.db.run('delete from lineage_influence');
  await place.db.run('delete from priority_rule');
  await place.db.run('update asset set priority_set = null, priority_reason = null');
  await settle();
});

const settle = () => place.db.transaction((tx) => settlePriority(tx));
const edge = (from: string, to: string, wrong = false) =>
  place.db.run(
    "insert into lineage_edge (flow_id, from_id, to_id, kind, wrong) values ($1, $2, $3, 'copied', $4) on conflict do nothing",
    [flow, id(from), id(to), wrong],
  );
const state = (grade: number | null, name: string) =>
  place.db.run('update asset set priority_set = $2 where id = $1', [id(name), grade]);
const nameOf = (assetId: string) => [...ids].find(([, one]) => one === assetId)?.[0] ?? '';
const inherited = async () =>
  Object.fromEntries(
    (
      await place.db.rows<{ id: string; grade: number; from: string; distance: number }>(
        'select asset_id as id, inherited as grade, from_id as from, distance from asset_priority where inherited > 0',
      )
    )
      .map((row) => [nameOf(row.id), `${row.grade} ${nameOf(row.from)} ${row.distance}`])
      .sort(),
  );
const RULE = { name: 'What is shown', filter: 'kind:report', priority: 2, enabled: true };

describe('what something is made of', () => {
  it('inherits from it, as far as it leads there, and no longer than it does', async () => {
    await edge('raw.a', 'mart.a');
    await edge('raw.b', 'mart.b');
    await edge('mart.a', 'report.a');
    await state(2, 'report');
    expect(await settle()).toBe(4);
    expect(await inherited()).toEqual({
      mart: '2 report 1',
      'mart.a': '2 report 1',
      raw: '2 report 2',
      'raw.a': '2 report 2',
    });
    // What stands already is not written again.
    expect(await settle()).toBe(0);
    await place.db.run('update lineage_edge set wrong = true where to_id = $1', [id('report.a')]);
    await settle();
    expect(await inherited()).toEqual({});
  });

  it('is what the plain definition says, of any graph', async () => {
    const steps = fc.uniqueArray(fc.tuple(fc.constantFrom(...COLUMNS), fc.constantFrom(...COLUMNS)), {
      maxLength: 9,
      selector: String,
    });
    const own = fc.dictionary(fc.constantFrom(...TABLES, ...COLUMNS), fc.constantFrom(0, 1, 2), { maxKeys: 4 });
    let [more, circles] = [0, 0];
    await fc.assert(
      fc.asyncProperty(steps, own, async (edges, stated) => {
        await place.db.run('delete from lineage_edge');
        await place.db.run('update asset set priority_set = null');
        for (const [from, to] of edges) await edge(from, to);
        for (const [name, grade] of Object.entries(stated)) await state(grade, name);
        await settle();
        const between = [...new Set(edges.map(([from, to]) => `${holderOf(from)} ${holderOf(to)}`))].map(
          (text) => text.split(' ') as [string, string],
        );
        const meant = inheritedPriority(
          {
            steps: [...edges, ...between.filter(([from, to]) => from !== to)].map(([from, to]) => ({
              from: id(from),
              to: id(to),
            })),
            within: new Map(COLUMNS.map((column) => [id(column), id(holderOf(column))])),
          },
          new Map(Object.entries(stated).map(([name, grade]) => [id(name), grade])),
        );
        const told = await inherited();
        more += Object.keys(told).length;
        const round = roundabout(between);
        if (round) circles += 1;
        for (const name of [...TABLES, ...COLUMNS]) {
          const plain = meant.get(id(name));
          // What leads round to itself may take what is no higher than its own from another, or miss it: it matters as much either way.
          if (round && plain && plain.grade <= (stated[name] ?? 0)) continue;
          if (round && told[name] !== undefined && plain && (stated[holderOf(name)] ?? 0) > 0) continue;
          expect(told[name], `${name} of ${JSON.stringify({ edges, stated })}`).toBe(
            plain && `${plain.grade} ${nameOf(plain.from)} ${plain.distance}`,
          );
        }
      }),
      { numRuns: 120 },
    );
    // It did hand on, in graphs with circles as well.
    expect(more).toBeGreaterThan(20);
    expect(circles).toBeGreaterThan(2);
  }, 60_000);
});

/** Whether steps between tables lead round to where they began. */
function roundabout(steps: readonly (readonly [string, string])[]): boolean {
  const from = (at: string, met: readonly string[]): boolean =>
    met.includes(at) || steps.some(([a, b]) => a === at && from(b, [...met, at]));
  return TABLES.some((table) => from(table, []));
}

describe('rules of priority', () => {
  it('find what matters; what a person states stands above them, and both are told', async () => {
    await edge('mart.a', 'report.a');
    const rule = await place.db.transaction((tx) => addPriorityRule(tx, home.who, RULE));
    await settle();
    const report = await getAsset(place.db, home.editor, id('report'));
    expect(report.priority).toBe(2);
    expect(report.priorityFacts).toMatchObject({
      stated: null,
      own: 2,
      rule: { name: 'What is shown' },
      inherited: 0,
      from: null,
    });
    expect((await getAsset(place.db, home.editor, id('mart'))).priorityFacts).toMatchObject({
      own: 0,
      inherited: 2,
      from: { path: 'report' },
      distance: 1,
    });
    const said = await place.db.transaction((tx) =>
      editAsset(tx, home.editor, id('report'), report.version, { priority: 0, priorityReason: 'Nobody reads it.' }),
    );
    expect(said).toMatchObject({ priority: 0, priorityFacts: { stated: 0, reason: 'Nobody reads it.', own: 0 } });
    await settle();
    expect(await inherited()).toEqual({});
    const entry = await place.db.one<{ id: string }>(
      "select id from journal where subject_id = $1 and after ->> 'priority' = 'ordinary'",
      [id('report')],
    );
    const back = await place.db.transaction((tx) =>
      putBack(tx, home.editor, id('report'), said.version, { entry: entry?.id ?? '', field: 'priority' }),
    );
    expect(back.priorityFacts).toMatchObject({ stated: null, own: 2 });
    await settle();
    expect(Object.keys(await inherited())).toEqual(['mart', 'mart.a']);
    expect((await listPriorityRules(place.db, home.reader)).rules).toMatchObject([{ name: 'What is shown', found: 1 }]);
    expect((await listPriorityRules(place.db, home.stranger)).rules).toMatchObject([
      { name: 'What is shown', found: 0 },
    ]);
    await place.db.transaction((tx) => removePriorityRule(tx, home.who, rule.id));
    await settle();
    expect(await place.db.rows('select from asset_priority')).toEqual([]);
  });

  it('are looked at before they are saved; nothing stays of that', async () => {
    await edge('mart.a', 'report.a');
    const preview = await previewPriorityRule(place.db, home.who, RULE, undefined);
    expect(preview).toMatchObject({ found: 1, shifts: [{ before: 0, after: 2, assets: 3 }] });
    expect(preview.shown.map(({ path, from }) => [path, from])).toEqual([
      ['mart', 'report'],
      ['report', null],
      ['mart.a', 'report'],
    ]);
    expect(await place.db.rows('select from priority_rule')).toEqual([]);
    expect(await inherited()).toEqual({});
    const rule = await place.db.transaction((tx) => addPriorityRule(tx, home.who, RULE));
    await settle();
    expect(await previewPriorityRule(place.db, home.who, { ...RULE, priority: 1 }, rule.id)).toMatchObject({
      shifts: [{ before: 2, after: 1, assets: 3 }],
    });
    expect(await previewPriorityRule(place.db, home.who, null, rule.id)).toMatchObject({
      found: 0,
      shifts: [{ before: 2, after: 0, assets: 3 }],
    });
    expect(
      (
        await place.db.transaction((tx) =>
          changePriorityRule(tx, home.who, rule.id, rule.version, { ...RULE, enabled: false }),
        )
      ).enabled,
    ).toBe(false);
    await settle();
    expect(await inherited()).toEqual({});
  });

  it('are made by who looks after everything, with a filter that can be read and asks for no priority', async () => {
    const add = (who = home.who, body = RULE) => place.db.transaction((tx) => addPriorityRule(tx, who, body));
    expect(await refused(add(home.editor))).toMatchObject({ status: 403 });
    expect(await refused(previewPriorityRule(place.db, home.editor, RULE, undefined))).toMatchObject({ status: 403 });
    expect(
      await refused(add(home.who, { ...RULE, filter: 'kind:table or (priority:critical and not gone:yes)' })),
    ).toMatchObject({ status: 422, detail: 'A rule of priority cannot ask for priority.' });
    expect(await refused(add(home.who, { ...RULE, filter: 'knd:table' }))).toMatchObject({ status: 422 });
    await add();
    expect(await refused(add())).toMatchObject({ code: 'name-taken' });
  });
});
