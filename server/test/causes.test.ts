import { type FoundFlow, keyOf } from '@idrel/readers/connectors';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { causesOf } from '../src/lineage/causes.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { storeRuns } from '../src/scanning/flowRuns.ts';
import { freshDatabase, personWith, refused, staffed } from './place.ts';
import { scanWorld, type World } from './world.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof staffed>>;
const WORLD: World = {
  raw: { vessel: 'text', amount: 'numeric' },
  sales: { vessel: 'text', amount: 'numeric' },
  report: { total: 'numeric' },
  aside: { x: 'text' },
};
const key = (...names: string[]) => keyOf('db', 's', ...names);
const made = (to: string, from: string, columns: [string, string][]): FoundFlow => ({
  key: key(to),
  kind: 'view',
  origin: 'view',
  statement: '',
  problems: [],
  influences: [],
  edges: columns.map(([a, b]) => ({ from: key(from, a), to: key(to, b), kind: 'copied' })),
});
const FLOWS = [made('report', 'sales', [['amount', 'total']])];
let load = '';
const HOUR = 3_600_000;
const ago = (hours: number) => new Date(Date.now() - hours * HOUR).toISOString();
const idOf = async (path: string) =>
  (await place.db.one<{ id: string }>('select id from asset where key = $1', [key(...path.split('.'))]))?.id ?? '';
const run = (id: string, state: 'done' | 'failed', hours: number, more = {}) => ({
  id,
  state,
  began: ago(hours + 0.1),
  ended: ago(hours),
  rows: null,
  message: null,
  checks: [],
  ...more,
});
const causes = async (path: string, who: Who = home.reader, days = 14) =>
  (await causesOf(place.db, who, await idOf(path), days)).causes.map(({ kind, asset, what, distance }) => ({
    kind,
    at: asset.path,
    what,
    distance,
  }));

beforeAll(async () => {
  place = await freshDatabase();
  home = await staffed(place.db);
  await scanWorld(place.db, home, WORLD, new Map(), FLOWS);
  // A load that is an asset of its own and of another source, from the raw table into the sales.
  const night = await place.db.one<{ id: string }>(
    "insert into source (name, kind, address, domain_id) values ('Night', 'events', '{}', $1) returning id",
    [home.domainId],
  );
  load =
    (
      await place.db.one<{ id: string }>(
        "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'flow', 'load', 'load', 0) returning id",
        [night?.id, home.domainId],
      )
    )?.id ?? '';
  await place.db.run(
    `
      with f as (
        insert into flow (source_id, asset_id, kind, statement, origin, key) values ($1, $2, 'load', '', 'run event', 'load') returning id
      )
      insert into lineage_edge (flow_id, from_id, to_id, kind) select id, $3, $4, 'copied' from f`,
    [night?.id, load, await idOf('raw.amount'), await idOf('sales.amount')],
  );
});
afterAll(() => place?.drop());

it('where nothing happened nothing is told, and how much was looked at', async () => {
  const { causes: found, looked } = await causesOf(place.db, home.reader, await idOf('report'), 14);
  expect(found).toEqual([]);
  expect(looked).toEqual({ assets: 3, flows: 1, hidden: 0, more: 0 });
});

it('what failed, did not hold and is warned of upstream stands in the order of likelihood, for tables and columns', async () => {
  await storeRuns(place.db, [
    {
      assetId: load,
      runs: [
        run('r1', 'failed', 5, {
          message: 'disk full',
          checks: [{ of: 'raw.vessel', what: 'not_null', passed: false }],
        }),
      ],
    },
  ]);
  await place.db.run(
    "insert into notice (asset_id, kind, text, starts, holds) values ($1, 'caution', 'Counts twice.', now(), true), ($2, 'stop', 'Not this one.', now(), true)",
    [await idOf('sales'), await idOf('aside')],
  );
  const expected = [
    { kind: 'failed run', at: 'load', what: 'disk full', distance: 2 },
    { kind: 'failed check', at: 'load', what: 'not_null does not hold for raw.vessel', distance: 2 },
    { kind: 'notice', at: 's.sales', what: 'caution: Counts twice.', distance: 1 },
  ];
  expect(await causes('report')).toEqual(expected);
  expect(await causes('report.total')).toEqual(expected);
  expect(await causes('raw')).toEqual([]);
  // Of the flow itself its own run is the nearest.
  expect((await causesOf(place.db, home.reader, load, 14)).causes[0]).toMatchObject({
    kind: 'failed run',
    distance: 0,
  });
});

it('what a scan found different is told of the column it happened to; of another column it is no cause', async () => {
  await scanWorld(place.db, home, { ...WORLD, raw: { vessel: 'varchar', amount: 'integer' } }, new Map(), FLOWS);
  const changed = (await causes('report')).filter(({ kind }) => kind === 'changed');
  expect(changed).toEqual(
    expect.arrayContaining([
      { kind: 'changed', at: 's.raw.amount', what: 'type: numeric → integer', distance: 2 },
      { kind: 'changed', at: 's.raw.vessel', what: 'type: text → varchar', distance: 2 },
    ]),
  );
  expect((await causes('report.total')).filter(({ kind }) => kind === 'changed').map(({ at }) => at)).toEqual([
    's.raw.amount',
  ]);
  await place.db.run("update scan_run set ended_at = now() - interval '20 days'");
  expect((await causes('report')).filter(({ kind }) => kind === 'changed')).toEqual([]);
  expect((await causes('report', home.reader, 30)).filter(({ kind }) => kind === 'changed')).toHaveLength(2);
});

it('a flow that kept a rhythm and stays away is late', async () => {
  const nightly = Array.from({ length: 8 }, (_, back) => run(`n${back}`, 'done', 60 + back * 24));
  await place.db.run('delete from flow_run');
  await storeRuns(place.db, [{ assetId: load, runs: nightly }]);
  expect(await causes('report.total')).toMatchObject([
    { kind: 'late run', at: 'load', what: expect.stringContaining('ended last') },
    { kind: 'notice' },
  ]);
  await storeRuns(place.db, [{ assetId: load, runs: [run('now', 'done', 1)] }]);
  expect(await causes('report.total')).toMatchObject([{ kind: 'notice' }]);
});

it('what somebody may not see is counted, and not told', async () => {
  await place.db.run('update asset set domain_id = $1 where id = any($2::uuid[])', [
    home.elsewhere,
    [await idOf('sales'), load],
  ]);
  const who = (await loadWho(place.db, home.reader.id)) as Who;
  const answer = await causesOf(place.db, who, await idOf('report'), 14);
  expect(answer.causes).toEqual([]);
  expect(answer.looked).toMatchObject({ assets: 2, hidden: 1, flows: 0 });
  const stranger = await personWith(place.db, 'Sten the second', 'reader', home.elsewhere);
  expect(await refused(causesOf(place.db, stranger, await idOf('report'), 14))).toMatchObject({ status: 404 });
});
