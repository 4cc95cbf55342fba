import type { AssetKind } from '@idrel/contract/things';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { loadWho } from '../src/people/who.ts';
import { applyRun } from '../src/scanning/apply.ts';
import { breakingNews, seeBreaking } from '../src/scanning/index.ts';
import { freshDatabase, furnish } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let owner: string;
let sourceId: string;
let domainId: string;

const key = (...names: string[]) => ['db', ...names].join('\u001f');
const asset = (names: string[], kind: AssetKind, native: Record<string, unknown> = {}) => ({
  key: key(...names),
  parentKey: names.length === 0 ? null : key(...names.slice(0, -1)),
  kind,
  name: names.at(-1) ?? 'db',
  depth: names.length,
  position: 0,
  comment: null,
  native,
  stats: {},
});
const table = (name: string, columns: Record<string, string>, kind: AssetKind = 'table') => [
  asset(['s', name], kind),
  ...Object.entries(columns).map(([column, type]) => asset(['s', name, column], 'column', { type, nullable: false })),
];
const flow = (view: string, ...edges: [from: string[], to: string][]) => ({
  key: key('s', view),
  kind: 'view',
  origin: 'view' as const,
  statement: '',
  problems: [],
  edges: edges.map(([from, to]) => ({ from: key('s', ...from), to: key('s', view, to), kind: 'copied' })),
  influences: [],
});
const scan = async (assets: ReturnType<typeof table>, flows: ReturnType<typeof flow>[]) => {
  const [run] = await place.db.rows<{ id: string }>(
    "insert into scan_run (source_id, state, ended_at) values ($1, 'done', now()) returning id",
    [sourceId],
  );
  const structure = { assets: [asset([], 'database'), asset(['s'], 'schema'), ...assets], sampleable: [] };
  await place.db.transaction((tx) =>
    applyRun(tx, { id: sourceId, domainId, address: {} }, run?.id ?? '', {
      structure,
      findings: new Map(),
      sampled: new Map(),
      profiles: new Map(),
      flows,
      covers: () => true,
    }),
  );
  return run?.id ?? '';
};
const who = async (id: string) => (await loadWho(place.db, id)) as NonNullable<Awaited<ReturnType<typeof loadWho>>>;
const told = async (id: string) =>
  (await breakingNews(place.db, await who(id))).map((news) =>
    news.changes.map(
      (change) =>
        `${change.path} ${change.what}: ${change.reached.map((entry) => `${entry.path} ${entry.distance}${entry.mine ? ' mine' : ''}`).join(', ')}`,
    ),
  );

const FLOWS = [flow('near', [['base', 'a'], 'a'], [['base', 'b'], 'b']), flow('far', [['near', 'a'], 'x'])];
const WHOLE = [
  ...table('base', { a: 'integer', b: 'text', c: 'text' }),
  ...table('near', { a: 'integer', b: 'text' }, 'view'),
  ...table('far', { x: 'integer' }, 'view'),
  ...table('other', { z: 'text' }),
];

beforeAll(async () => {
  place = await freshDatabase();
  ({ domainId, sourceId } = await furnish(place.db));
  const [person] = await place.db.rows<{ id: string }>(
    "insert into person (name, email) values ('Ove Owner', 'ove@example.org') returning id",
  );
  owner = person?.id ?? '';
  await place.db.run("insert into role_grant (person_id, role, domain_id) values ($1, 'reader', $2)", [
    owner,
    domainId,
  ]);
  await scan(WHOLE, FLOWS);
  await place.db.run(
    "insert into asset_person (asset_id, person_id, role) select id, $1, 'owner' from asset where name = 'far'",
    [owner],
  );
});
afterAll(() => place.drop());

describe('breaking changes', () => {
  it('reach those who own what is made from what changed, however far', async () => {
    const changed = WHOLE.map((entry) =>
      entry.key === key('s', 'base', 'a') ? { ...entry, native: { ...entry.native, type: 'bigint' } } : entry,
    );
    const run = await scan(changed, FLOWS);
    expect(await told(owner)).toEqual([['s.base.a type: integer → bigint: s.far 2 mine, s.near 1']]);
    await seeBreaking(place.db, await who(owner), run, true);
    expect(await told(owner)).toEqual([]);
    await seeBreaking(place.db, await who(owner), run, false);
    expect(await told(owner)).toHaveLength(1);
    await seeBreaking(place.db, await who(owner), run, true);
  });

  it('do not come of what nothing is made from, nor of what breaks nothing', async () => {
    const calm = WHOLE.filter(
      (entry) => !entry.key.startsWith(key('s', 'other')) && entry.key !== key('s', 'base', 'c'),
    ).map((entry) =>
      entry.key === key('s', 'base', 'a')
        ? { ...entry, native: { ...entry.native, type: 'bigint', default: '0' } }
        : entry,
    );
    await scan(calm, FLOWS);
    expect(await told(owner)).toEqual([]);
  });

  it('tell a table that is gone once, with all that its columns reached, and go when it comes back', async () => {
    const without = WHOLE.filter(
      (entry) => entry.key !== key('s', 'base') && !entry.key.startsWith(`${key('s', 'base')}\u001f`),
    );
    await scan(without, [FLOWS[1] as (typeof FLOWS)[0]]);
    expect(await told(owner)).toEqual([['s.base gone: s.far 2 mine, s.near 1']]);
    await scan(WHOLE, FLOWS);
    expect(await told(owner)).toEqual([]);
  });

  it('show nobody what they may not read', async () => {
    const [stranger] = await place.db.rows<{ id: string }>(
      "insert into person (name, email) values ('Sven Stranger', 'sven@example.org') returning id",
    );
    await scan(
      WHOLE.map((entry) =>
        entry.key === key('s', 'base', 'a') ? { ...entry, native: { ...entry.native, type: 'text' } } : entry,
      ),
      FLOWS,
    );
    expect(await told(stranger?.id ?? '')).toEqual([]);
    expect(await told(owner)).toHaveLength(1);
  });
});
