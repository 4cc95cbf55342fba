import { setTimeout as pause } from 'node:timers/promises';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { momentsAsked, momentsOf } from '../src/lineage/moments.ts';
import { type AskedPicture, lineagePicture } from '../src/lineage/picture.ts';
import { type PictureFormat, pictureFile } from '../src/lineage/pictureFile.ts';
import { edgesOf, sayEdges, unsayEdge } from '../src/lineage/said.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { freshDatabase, furnish } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let who: Who;
let home: Awaited<ReturnType<typeof furnish>>;
const TABLES = 4;
const tables: string[] = [];
const columns: string[] = [];

const add = async (parent: string | null, kind: string, name: string, key: string, depth: number) =>
  (
    await place.db.rows<{ id: string }>(
      'insert into asset (source_id, parent_id, domain_id, kind, name, key, depth) values ($1, $2, $3, $4, $5, $6, $7) returning id',
      [home.sourceId, parent, home.domainId, kind, name, key, depth],
    )
  )[0]?.id ?? '';

beforeAll(async () => {
  place = await freshDatabase();
  home = await furnish(place.db);
  who = (await loadWho(place.db, home.personId)) as Who;
  const schema = await add(null, 'schema', 's', 's', 0);
  for (let table = 0; table < TABLES; table += 1) {
    const id = await add(schema, 'table', `t${table}`, `s\u001ft${table}`, 1);
    tables.push(id);
    columns.push(await add(id, 'column', 'a', `s\u001ft${table}\u001fa`, 2));
  }
});
afterAll(() => place.drop());

/** The moment now, as the database has it, with a thousandth of a second around it in which nothing happens. */
async function moment(): Promise<string> {
  await pause(3);
  const now = await place.db.one<{ at: string }>('select now() as at');
  await pause(3);
  return new Date(now?.at ?? '').toISOString();
}

const change = fc.oneof(
  {
    weight: 4,
    arbitrary: fc.record({
      what: fc.constant('tell' as const),
      from: fc.nat(TABLES - 1),
      to: fc.nat(TABLES - 1),
      kind: fc.constantFrom('copied', 'transformed', 'filter'),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      what: fc.constant('end' as const),
      to: fc.nat(TABLES - 1),
      kind: fc.constantFrom('copied', 'filter'),
    }),
  },
  { weight: 1, arbitrary: fc.record({ what: fc.constant('end flow' as const), to: fc.nat(TABLES - 1) }) },
);
type Change = typeof change extends fc.Arbitrary<infer C> ? C : never;

const flowInto = async (to: number) =>
  (
    await place.db.one<{ id: string }>(
      `insert into flow (source_id, asset_id, kind, statement, key) values ($1, $2, 'view', 'select', $3)
       on conflict (source_id, key) do update set last_seen = now() returning id`,
      [home.sourceId, tables[to], `flow ${to}`],
    )
  )?.id ?? '';

/** Does it in the catalog, and in what is expected of it. */
async function happen(act: Change, expected: Set<string>): Promise<void> {
  const drop = (test: (edge: string) => boolean) => {
    for (const edge of [...expected]) if (test(edge)) expected.delete(edge);
  };
  if (act.what === 'end flow') {
    await place.db.run('delete from flow where key = $1', [`flow ${act.to}`]);
    drop((edge) => edge.split(' ')[1] === `t${act.to}`);
    return;
  }
  if (act.what === 'end') {
    const [table, near] = act.kind === 'filter' ? ['lineage_influence', tables] : ['lineage_edge', columns];
    await place.db.run(`delete from ${table} where to_id = $1`, [near[act.to]]);
    drop((edge) => edge.split(' ')[1] === `t${act.to}` && edge.endsWith('filter') === (act.kind === 'filter'));
    return;
  }
  if (act.from === act.to) return;
  const flow = await flowInto(act.to);
  if (act.kind === 'filter')
    await place.db.run(
      "insert into lineage_influence (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'filter') on conflict do nothing",
      [flow, columns[act.from], tables[act.to]],
    );
  else
    await place.db.run(
      `insert into lineage_edge (flow_id, from_id, to_id, kind) values ($1, $2, $3, $4)
       on conflict (flow_id, from_id, to_id) do update set kind = excluded.kind`,
      [flow, columns[act.from], columns[act.to], act.kind],
    );
  if (act.kind !== 'filter') drop((edge) => edge.startsWith(`t${act.from} t${act.to} `) && !edge.endsWith('filter'));
  expected.add(`t${act.from} t${act.to} ${act.kind}`);
}

const nameOf = (id: string) => `t${tables.indexOf(id)}`;
/** All edges of all pictures around every table, each as text, with what became of it. */
async function drawn(moments: NonNullable<AskedPicture['moments']> | null): Promise<Map<string, string | null>> {
  const edges = new Map<string, string | null>();
  for (const table of tables) {
    const picture = await lineagePicture(place.db, who, table, { upstream: TABLES, downstream: TABLES, moments });
    for (const { fromTable, toTable, kind, change: what } of [...picture.links, ...picture.influences])
      edges.set(`${nameOf(fromTable)} ${nameOf(toTable)} ${kind}`, what);
  }
  return edges;
}
const sorted = (edges: Iterable<string>) => [...edges].sort();

describe('lineage of the past', () => {
  it('is what stood at each moment, and two moments differ by what came and what went', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(change, { minLength: 3, maxLength: 7 }), async (changes) => {
        await place.db.run('delete from flow');
        await place.db.run('delete from ended_edge');
        const expected = new Set<string>();
        const history = [{ at: await moment(), edges: new Set<string>() }];
        for (const act of changes) {
          await happen(act, expected);
          history.push({ at: await moment(), edges: new Set(expected) });
        }
        for (const { at, edges } of history)
          expect(sorted((await drawn({ at, before: null })).keys())).toEqual(sorted(edges));
        expect(sorted((await drawn(null)).keys())).toEqual(sorted(expected));
        const [before, after] = [history[1], history.at(-1)];
        if (!before || !after) return;
        const compared = await drawn({ at: after.at, before: before.at });
        const of = (what: string | null) => sorted([...compared].flatMap(([edge, is]) => (is === what ? [edge] : [])));
        expect(of('came')).toEqual(sorted([...after.edges].filter((edge) => !before.edges.has(edge))));
        expect(of('went')).toEqual(sorted([...before.edges].filter((edge) => !after.edges.has(edge))));
        expect(of(null)).toEqual(sorted([...after.edges].filter((edge) => before.edges.has(edge))));
      }),
      { numRuns: 6 },
    );
  });

  it('names the moments at which edges of an asset changed, and lists those that stand no more', async () => {
    await place.db.run('delete from flow');
    await place.db.run('delete from ended_edge');
    const [from = '', to = ''] = columns;
    const [said] = await sayEdges(place.db, who, [
      { from: { id: from }, to: { id: to }, kind: 'copied', flow: null, note: '' },
    ]);
    const stood = await moment();
    await unsayEdge(place.db, who, said?.id ?? '');
    const moments = await momentsOf(place.db, who, tables[1] ?? '');
    expect(moments.map(({ came, went, run }) => [came, went, run])).toEqual([
      [0, 1, null],
      [1, 0, null],
    ]);
    const [gone, came] = moments.map(({ at }) => new Date(at).toISOString());
    // An address names a moment exactly: at it the change has happened, a thousandth of a second before it has not.
    const before = (at = '') => new Date(new Date(at).getTime() - 1).toISOString();
    const links = async (at = '') =>
      (await lineagePicture(place.db, who, to, { upstream: 1, downstream: 1, moments: { at, before: null } })).links
        .length;
    expect([
      await links(before(came)),
      await links(came),
      await links(stood),
      await links(before(gone)),
      await links(gone),
    ]).toEqual([0, 1, 1, 1, 0]);
    const asked = { limit: 10 };
    expect((await edgesOf(place.db, who, tables[1] ?? '', 'upstream', { ...asked, ended: false })).items).toEqual([]);
    const ended = await edgesOf(place.db, who, tables[1] ?? '', 'upstream', { ...asked, ended: true });
    expect(ended).toMatchObject({ total: 1, items: [{ kind: 'copied', origin: 'by hand', mayEdit: false }] });
    expect(new Date(ended.items[0]?.until ?? '').toISOString()).toBe(gone);
  });

  it('shows what was there then, though it is gone by now, and goes with what is removed altogether', async () => {
    await place.db.run('delete from flow');
    await place.db.run('delete from ended_edge');
    const lost = await add(null, 'table', 'lost', 'lost', 0);
    const field = await add(lost, 'column', 'a', 'lost\u001fa', 1);
    await happen({ what: 'tell', from: 0, to: 1, kind: 'copied' }, new Set());
    const flow = await flowInto(1);
    await place.db.run("insert into lineage_edge (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'copied')", [
      flow,
      field,
      columns[1],
    ]);
    const then = await moment();
    await place.db.run('delete from lineage_edge where from_id = $1', [field]);
    await place.db.run('update asset set gone_at = now() where id = any($1::uuid[])', [[lost, field]]);
    const names = async (at: string | null) =>
      (
        await lineagePicture(place.db, who, tables[1] ?? '', {
          upstream: 1,
          downstream: 1,
          moments: { at, before: null },
        })
      ).nodes
        .map(({ name, goneAt }) => `${name}${goneAt ? ', gone' : ''}`)
        .sort();
    expect(await names(then)).toEqual(['lost, gone', 't0', 't1']);
    expect(await names(null)).toEqual(['t0', 't1']);
    await place.db.run('delete from asset where id = $1', [lost]);
    expect(await place.db.rows('select from ended_edge')).toEqual([]);
    // The flow goes with its asset; its edges end there, and are told of no flow.
    await place.db.run('update flow set asset_id = $1', [await add(null, 'flow', 'load', 'load', 0)]);
    await place.db.run("delete from asset where key = 'load'");
    expect(await place.db.rows('select flow_id, kind from ended_edge')).toEqual([{ flow_id: null, kind: 'copied' }]);
  });

  it('is told as a file: a sheet without formulas, a flowchart, events by the names of the systems', async () => {
    await place.db.run('delete from flow');
    await place.db.run(`update source set address = '{"host": "db", "port": 5432, "database": "s"}' where id = $1`, [
      home.sourceId,
    ]);
    await place.db.run("update asset set name = '=t0' where id = $1", [tables[0]]);
    await happen({ what: 'tell', from: 0, to: 1, kind: 'transformed' }, new Set());
    const shown = await lineagePicture(place.db, who, tables[1] ?? '', { upstream: 1, downstream: 1 });
    const file = async (format: PictureFormat) => {
      const { name, content } = await pictureFile(place.db, shown, format, 't1');
      return { name, text: Buffer.from(content, 'base64').toString() };
    };
    const csv = await file('csv');
    expect([csv.name, csv.text.split('\n').length]).toEqual(['lineage of t1.csv', 3]);
    expect(csv.text).toContain('transformed');
    expect(csv.text).not.toMatch(/(^|,)"?=/m);
    expect((await file('mermaid')).text).toContain('-->|"transformed"|');
    const [event] = JSON.parse((await file('openlineage')).text) as [
      { outputs: { namespace: string; name: string }[] },
    ];
    expect(event.outputs).toMatchObject([{ namespace: 'postgres://db:5432', name: 's.t1' }]);
  });

  it('is refused when the moment to compare with is the later one', () => {
    expect(() => momentsAsked({ at: '2026-01-01T00:00:00Z', before: '2026-02-01T00:00:00Z' })).toThrow(/later than/);
    expect(momentsAsked({})).toBeNull();
  });
});
