import { reachable, type Step } from '@idrel/core/lineage';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { impactList } from '../src/lineage/impact.ts';
import { pastEdges } from '../src/lineage/past.ts';
import { lineagePicture, pictureColumns } from '../src/lineage/picture.ts';
import { presentEdges } from '../src/lineage/present.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { freshDatabase, furnish, personWith } from './place.ts';

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
const tableOf = (column: string) => tables[columns.findIndex((own) => own.includes(column))] ?? column;
const reached = (steps: readonly Step<null>[], start: string, direction: 'downstream' | 'upstream') =>
  reachable(steps, start, direction).map(({ id }) => id);
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

          const picture = await lineagePicture(place.db, who, start, { upstream: up, downstream: down });
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

          const values = columnSteps(links.filter(({ rows }) => !rows));
          const onWay = [start, ...(['upstream', 'downstream'] as const).flatMap((way) => reached(values, start, way))];
          const along = await lineagePicture(place.db, who, table, { upstream: up, downstream: down, column: start });
          expect(along.nodes.map(({ id }) => id).sort()).toEqual([...new Set(onWay.map(tableOf))].sort());
        },
      ),
      { numRuns: 60 },
    );
  });

  it('tells between tables what it tells between columns, now and of the past; and of some tables what leads to them and from them', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(link, { maxLength: 14 }),
        fc.uniqueArray(fc.nat(TABLES - 1), { minLength: 1 }),
        async (links, some) => {
          await store(links);
          const those = some.map((at) => tables[at] ?? '');
          const between = (told: readonly { fromTable: string; toTable: string; kind: string }[]) =>
            [...new Set(told.map(({ fromTable, toTable, kind }) => `${fromTable} ${kind} ${toTable}`))].sort();
          for (const edges of [presentEdges(place.db), pastEdges(place.db, { at: null, before: null })]) {
            const fine = await edges.links(tables, tables);
            const coarse = await edges.tableLinks(tables);
            const apart = fine.filter(({ fromTable, toTable }) => fromTable !== toTable);
            expect(between(coarse)).toEqual(between(apart));
            expect(coarse.length).toBe(between(coarse).length);
            expect(coarse.every((one) => one.from === one.fromTable && one.to === one.toTable)).toBe(true);
            const rows = await edges.tableInfluences(tables);
            expect(between(rows)).toEqual(between(await edges.influences(tables)));
            expect(rows.length).toBe(between(rows).length);
            expect(between(await edges.links(those, tables))).toEqual(
              between(fine.filter(({ fromTable, toTable }) => those.includes(fromTable) || those.includes(toTable))),
            );
          }
        },
      ),
      { numRuns: 30 },
    );
  });

  it('shows the nearest of very many, without columns, and says how many more there are; columns are told of some', async () => {
    await place.db.run('delete from flow');
    const hub = columnOf(0, 0);
    await place.db.run(
      `with made as (insert into asset (source_id, parent_id, domain_id, kind, name, key, depth) select source_id, parent_id, domain_id, 'view', 'v' || n, key || 'v' || n, depth from asset, generate_series(1, 2100) n where id = $1 returning id, source_id),
       flows as (insert into flow (source_id, asset_id, kind, statement) select source_id, id, 'view', 'select' from made returning id, asset_id)
       insert into lineage_influence (flow_id, from_id, to_id, kind) select id, $2, asset_id, 'join' from flows`,
      [tables[0], hub],
    );
    await place.db.run(
      `with made as (insert into asset (source_id, parent_id, domain_id, kind, name, key, depth) select source_id, id, domain_id, 'column', 'c', key || 'c', depth + 1 from asset where kind = 'view' order by id limit 1 returning id, parent_id)
       insert into lineage_edge (flow_id, from_id, to_id, kind) select f.id, $1, m.id, 'masked' from made m join flow f on f.asset_id = m.parent_id`,
      [hub],
    );
    const hubTable = tables[0] ?? '';
    const { nodes, links, influences, coarse, nearest } = await lineagePicture(place.db, who, hubTable, {
      upstream: 2,
      downstream: 2,
    });
    expect(nodes.length).toBe(2001);
    const [first] = nodes;
    expect([first?.id, first?.columns, first?.columnCount, first?.more.downstream]).toEqual([hubTable, [], 2, 100]);
    expect([coarse, nearest, links.length, influences.length]).toEqual([true, true, 1, 2000]);
    expect(links[0]).toMatchObject({ from: hubTable, kind: 'masked', to: links[0]?.toTable });
    expect((await impactList(place.db, who, hubTable, 'downstream')).length).toBe(2100);

    const told = await pictureColumns(place.db, who, { tables: [hubTable], among: nodes.map(({ id }) => id) }, null);
    expect(told.tables.map(({ columns }) => columns.map(({ name }) => name))).toEqual([['a', 'b']]);
    expect(told.links).toMatchObject([{ from: hub, kind: 'masked', fromTable: hubTable, toTable: links[0]?.toTable }]);
    // A view makes itself: no flow of its own stands between.
    expect(told.links.map(({ flow }) => flow)).toEqual([null]);
    const elsewhere = await place.db.one<{ id: string }>("insert into domain (name) values ('Elsewhere') returning id");
    const nobody = await personWith(place.db, 'Nobody', 'reader', elsewhere?.id ?? null);
    expect(await pictureColumns(place.db, nobody, { tables: [hubTable], among: [hubTable] }, null)).toEqual({
      tables: [],
      links: [],
    });

    const along = await lineagePicture(place.db, who, hubTable, { upstream: 0, downstream: 0, column: hub });
    expect(along.nodes.map(({ id }) => id)).toEqual([hubTable, links[0]?.toTable]);
    expect([along.coarse, along.links.length, along.nodes[0]?.columns.length]).toEqual([false, 1, 2]);
    const whole = await lineagePicture(place.db, who, hubTable, { upstream: 0, downstream: 1, whole: true });
    expect([whole.coarse, whole.nodes.length, whole.nodes[0]?.columns.length]).toEqual([false, 2001, 2]);
  });
});
