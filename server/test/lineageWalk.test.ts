import { reachable, type Step } from '@idrel/core/lineage';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { impactList } from '../src/lineage/impact.ts';
import { lineagePicture } from '../src/lineage/picture.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { freshDatabase, furnish } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let who: Who;
let home: Awaited<ReturnType<typeof furnish>>;
const TABLES = 9;
const tables: string[] = [];
/** Columns by table, two each. */
const columns: string[][] = [];

beforeAll(async () => {
  place = await freshDatabase();
  home = await furnish(place.db);
  who = (await loadWho(place.db, home.personId)) as Who;
  const add = async (parent: string | null, kind: string, name: string, key: string, depth: number) =>
    (
      await place.db.rows<{ id: string }>(
        'insert into asset (source_id, parent_id, domain_id, kind, name, key, depth) values ($1, $2, $3, $4, $5, $6, $7) returning id',
        [home.sourceId, parent, home.domainId, kind, name, key, depth],
      )
    )[0]?.id ?? '';
  const schema = await add(null, 'schema', 's', 's', 0);
  for (let table = 0; table < TABLES; table += 1) {
    const id = await add(schema, 'table', `t${table}`, `s\u001ft${table}`, 1);
    tables.push(id);
    columns.push([
      await add(id, 'column', 'a', `s\u001ft${table}\u001fa`, 2),
      await add(id, 'column', 'b', `s\u001ft${table}\u001fb`, 2),
    ]);
  }
});
afterAll(() => place.drop());

/** A value carried from a column to one of another table, or a column that decides the rows of a table. */
const link = fc.record({
  from: fc.nat(TABLES - 1),
  to: fc.nat(TABLES - 1),
  fromColumn: fc.nat(1),
  toColumn: fc.nat(1),
  rows: fc.boolean(),
});
type Link = typeof link extends fc.Arbitrary<infer L> ? L : never;
const columnOf = (table: number, column: number) => columns[table]?.[column] ?? '';

async function store(links: readonly Link[]) {
  await place.db.run('delete from flow');
  const flows = new Map<number, string>();
  for (const { from, to, fromColumn, toColumn, rows } of links) {
    if (!flows.has(to)) {
      const [flow] = await place.db.rows<{ id: string }>(
        "insert into flow (source_id, asset_id, kind, statement) values ($1, $2, 'view', 'select') returning id",
        [home.sourceId, tables[to]],
      );
      flows.set(to, flow?.id ?? '');
    }
    if (rows)
      await place.db.run(
        "insert into lineage_influence (flow_id, from_id, to_id, kind) select id, $2, asset_id, 'filter' from flow where id = $1 on conflict do nothing",
        [flows.get(to), columnOf(from, fromColumn)],
      );
    else
      await place.db.run(
        "insert into lineage_edge (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'copied') on conflict do nothing",
        [flows.get(to), columnOf(from, fromColumn), columnOf(to, toColumn)],
      );
  }
}
const tableSteps = (links: readonly Link[]): Step<null>[] =>
  links
    .filter((entry) => entry.from !== entry.to)
    .map((entry) => ({ from: tables[entry.from] ?? '', to: tables[entry.to] ?? '', edge: null }));
const columnSteps = (links: readonly Link[]): Step<null>[] =>
  links.map((entry) => ({
    from: columnOf(entry.from, entry.fromColumn),
    to: entry.rows ? (tables[entry.to] ?? '') : columnOf(entry.to, entry.toColumn),
    edge: null,
  }));
const told = (rows: readonly { id: string; distance: number }[]) =>
  rows.map((row) => `${row.distance} ${row.id}`).sort();

describe('lineage that is read ring by ring', () => {
  it('is what the whole graph says: impact of tables and columns both ways, and pictures with what lies beyond them', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(link, { maxLength: 14 }),
        fc.nat(TABLES - 1),
        fc.nat(1),
        fc.constantFrom('downstream' as const, 'upstream' as const),
        fc.nat(3),
        fc.nat(3),
        async (links, at, column, direction, up, down) => {
          await store(links);
          const table = tables[at] ?? '';
          expect(told(await impactList(place.db, who, table, direction))).toEqual(
            told(reachable(tableSteps(links), table, direction)),
          );
          const start = columnOf(at, column);
          expect(told(await impactList(place.db, who, start, direction))).toEqual(
            told(reachable(columnSteps(links), start, direction)),
          );

          const picture = await lineagePicture(place.db, who, start, up, down);
          const within = (way: 'downstream' | 'upstream', most: number) =>
            reachable(tableSteps(links), table, way).filter((reached) => reached.distance <= most);
          const shown = new Set([
            table,
            ...within('upstream', up).map(({ id }) => id),
            ...within('downstream', down).map(({ id }) => id),
          ]);
          expect(new Set(picture.nodes.map((node) => node.id))).toEqual(shown);
          for (const node of picture.nodes) {
            const beyond = (side: 'from' | 'to') =>
              new Set(
                tableSteps(links).flatMap((step) =>
                  step[side === 'from' ? 'to' : 'from'] === node.id && !shown.has(step[side]) ? [step[side]] : [],
                ),
              ).size;
            expect(node.more).toEqual({ upstream: beyond('from'), downstream: beyond('to') });
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  it('shows the nearest of very many, and says how many more there are', async () => {
    await place.db.run('delete from flow');
    const hub = columnOf(0, 0);
    await place.db.run(
      `with made as (insert into asset (source_id, parent_id, domain_id, kind, name, key, depth) select source_id, parent_id, domain_id, 'view', 'v' || n, key || 'v' || n, depth from asset, generate_series(1, 400) n where id = $1 returning id, source_id),
       flows as (insert into flow (source_id, asset_id, kind, statement) select source_id, id, 'view', 'select' from made returning id, asset_id)
       insert into lineage_influence (flow_id, from_id, to_id, kind) select id, $2, asset_id, 'join' from flows`,
      [tables[0], hub],
    );
    const { nodes } = await lineagePicture(place.db, who, tables[0] ?? '', 2, 2);
    expect(nodes.length).toBe(251);
    expect(nodes.find((node) => node.id === tables[0])?.more.downstream).toBe(150);
    expect((await impactList(place.db, who, tables[0] ?? '', 'downstream')).length).toBe(400);
  });
});
