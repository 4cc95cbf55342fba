import { type FoundFlow, keyOf } from '@idrel/readers/connectors';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { brokenThings, seeBroken, settleBroken } from '../src/lineage/index.ts';
import type { Who } from '../src/people/index.ts';
import { freshDatabase, personWith, staffed } from './place.ts';
import { scanWorld, type World } from './world.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof staffed>>;
let steward: Who;
const WORLD: World = {
  raw: { vessel: 'text', amount: 'numeric' },
  sales: { vessel: 'text', amount: 'numeric' },
  sums: { total: 'numeric' },
};
const key = (...names: string[]) => keyOf('db', 's', ...names);
const script = (to: string, from: string, columns: [string, string][]): FoundFlow => ({
  key: key(to),
  kind: 'script',
  origin: 'script',
  statement: '',
  problems: [],
  influences: [],
  edges: columns.map(([a, b]) => ({ from: key(from, a), to: key(to, b), kind: 'copied' })),
});
const FLOWS = [
  script('sales', 'raw', [
    ['vessel', 'vessel'],
    ['amount', 'amount'],
  ]),
  script('sums', 'sales', [['amount', 'total']]),
];
const idOf = async (path: string) =>
  (await place.db.one<{ id: string }>('select id from asset where key = $1', [key(...path.split('.'))]))?.id ?? '';
const settle = () => place.db.transaction((tx) => settleBroken(tx));
const told = async (who: Who = steward) =>
  (await brokenThings(place.db, who)).map(({ path, what, causes, reached }) => ({
    at: path,
    what,
    by: causes.map((cause) => cause.path),
    behind: reached.map((one) => one.path),
  }));

beforeAll(async () => {
  place = await freshDatabase();
  home = await staffed(place.db);
  steward = await personWith(place.db, 'Stine', 'steward', home.domainId);
});
afterAll(() => place?.drop());
beforeEach(async () => {
  await place.db.run('delete from asset');
  await place.db.run('delete from flow');
  await scanWorld(place.db, home, WORLD, new Map(), FLOWS);
});

it('nothing is told where nothing is broken', async () => {
  expect(await settle()).toBe(0);
  expect(await told()).toEqual([]);
});

it('what is made from a column that is gone is told with what lies behind it, until it is back', async () => {
  await place.db.run('update asset set gone_at = now() where id = $1', [await idOf('raw.amount')]);
  await settle();
  expect(await told()).toEqual([
    { at: 's.sales', what: 'names what is gone', by: ['s.raw.amount'], behind: ['s.sums'] },
  ]);
  // Of a table that is gone with its columns the table is told, once.
  await place.db.run('update asset set gone_at = now() where id = $1 or parent_id = $1', [await idOf('raw')]);
  await settle();
  expect((await told()).map(({ by }) => by)).toEqual([['s.raw']]);
  await place.db.run('update asset set gone_at = null');
  await settle();
  expect(await told()).toEqual([]);
});

it('an edge that somebody struck breaks nothing', async () => {
  await place.db.run('update lineage_edge set wrong = true where from_id = $1', [await idOf('raw.amount')]);
  await place.db.run('update asset set gone_at = now() where id = $1', [await idOf('raw.amount')]);
  expect(await settle()).toBe(0);
});

it('a table that its load no longer writes is told, as long as nothing else does', async () => {
  await place.db.run("update lineage_edge set since = now() - interval '1 hour'");
  await scanWorld(place.db, home, WORLD, new Map(), FLOWS.slice(0, 1));
  await settle();
  expect(await told()).toEqual([{ at: 's.sums', what: 'is written no more', by: [], behind: [] }]);
  await scanWorld(place.db, home, WORLD, new Map(), FLOWS);
  await settle();
  expect(await told()).toEqual([]);
  // What ended long ago is no news.
  await scanWorld(place.db, home, WORLD, new Map(), FLOWS.slice(0, 1));
  await place.db.run("update ended_edge set since = since - interval '90 days', until = until - interval '90 days'");
  expect(await settle()).toBe(0);
});

it('a report on what retires is told to who owns it; noted it is off, until something else retires', async () => {
  const report = await idOf('sums');
  await place.db.run("update asset set kind = 'report' where id = $1", [report]);
  const olga = await personWith(place.db, 'Olga', 'reader', home.domainId);
  await place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [
    report,
    olga.id,
  ]);
  await place.db.run("update asset set standing = 'retiring' where id = $1", [await idOf('raw')]);
  await settle();
  expect(await told(olga)).toEqual([{ at: 's.sums', what: 'is made from what retires', by: ['s.raw'], behind: [] }]);
  expect(await told(home.reader)).toEqual([]);
  const [thing] = await brokenThings(place.db, olga);
  const see = (seen: boolean) =>
    seeBroken(place.db, olga, report, { what: thing?.what ?? '', sign: thing?.sign ?? [], seen });
  await see(true);
  expect(await told(olga)).toEqual([]);
  await see(false);
  expect(await told(olga)).toHaveLength(1);
  await see(true);
  await place.db.run("update asset set standing = 'retiring' where id = $1", [await idOf('sales')]);
  await settle();
  expect((await told(olga)).map(({ by }) => by.sort())).toEqual([['s.raw', 's.sales']]);
});

it('what somebody may not see is neither told nor named', async () => {
  await place.db.run('update asset set gone_at = now(), domain_id = $2 where id = $1', [
    await idOf('raw.amount'),
    home.elsewhere,
  ]);
  await settle();
  expect((await told()).map(({ by }) => by)).toEqual([[]]);
  await place.db.run('update asset set domain_id = $2 where id = $1', [await idOf('sales'), home.elsewhere]);
  expect(await told()).toEqual([]);
});
