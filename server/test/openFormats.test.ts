import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readDescribed, writeDescribed } from '../src/exchange/described.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { amiss, canonical, jsonLd, turtle, undeclared } from './openFormats.ts';
import { freshDatabase, refused, staffed } from './place.ts';

const BASE = 'https://idrel.example.org';
let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof staffed>>;
let administrator: Who;
const ids = new Map<string, string>();
const id = (name: string): string => {
  const found = ids.get(name);
  if (!found) throw new Error(`no ${name}`);
  return found;
};
const uri = (name: string) => `${BASE}/assets/${id(name)}`;
const one = async (sql: string, bind: unknown[] = []) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';

async function add(name: string, kind: string, parent: string | null, native: object = {}, domain = home.domainId) {
  const key = ['db', ...name.split('.')].join('\u001f');
  ids.set(
    name,
    await one(
      'insert into asset (source_id, parent_id, domain_id, kind, name, key, depth, native) values ($1, $2, $3, $4, $5, $6, 2, $7) returning id',
      [home.sourceId, parent && id(parent), domain, kind, name.split('.').at(-1), key, JSON.stringify(native)],
    ),
  );
}

beforeAll(async () => {
  place = await freshDatabase();
  home = await staffed(place.db);
  administrator = (await loadWho(place.db, home.personId)) as Who;
  await add('s', 'schema', null);
  await add('s.port', 'table', 's');
  await add('s.port.code', 'column', 's.port', { type: 'character(3)', primaryKey: true, nullable: false });
  await add('s.trip', 'table', 's');
  await add('s.trip.from', 'column', 's.trip', { type: 'character(3)', references: ['s.port.code'] });
  await add('s.trip.to', 'column', 's.trip', { type: 'character(3)', references: ['s.port.code'] });
  await add('s.trip.pay', 'column', 's.trip', { type: 'numeric(8,2)', nullable: 'perhaps' }, home.elsewhere);
  await add('s.secret', 'view', 's', {}, home.elsewhere);
  await add('s.report', 'view', 's');
  await add('s.load', 'flow', 's');
  const flow = async (name: string, froms: readonly string[], to: string) => {
    const made = await one(
      "insert into flow (source_id, asset_id, kind, statement) values ($1, $2, 'view', 'select') returning id",
      [home.sourceId, id(name)],
    );
    for (const from of froms)
      await place.db.run("insert into lineage_edge (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'copied')", [
        made,
        id(from),
        id(to),
      ]);
  };
  await flow('s.report', ['s.trip', 's.secret'], 's.report');
  await flow('s.load', ['s.port', 's.secret'], 's.trip');
  await place.db.run(
    "insert into flow_run (asset_id, run_id, state, began, ended) values ($1, 'a b', 'done', '2026-01-01', '2026-01-02')",
    [id('s.load')],
  );
});
afterAll(() => place.drop());

const read = async (who: Who, name: string) => {
  const [asset] = await readDescribed(place.db, who, [id(name)], BASE);
  if (!asset) throw new Error(`${name} is not to be seen`);
  return asset;
};
const written = (who: Who, as: 'ttl' | 'jsonld' | 'csvw' | 'table-schema', names: readonly string[]) =>
  writeDescribed(place.db, who, { ids: names.map(id), as, base: BASE, catalog: null, whoId: who.id, keyId: null });

describe('what is told of an asset', () => {
  it('is only what may be seen: columns, what it is made from, what a flow reads', async () => {
    expect(
      (await readDescribed(place.db, home.reader, [id('s.secret'), id('s.trip')], BASE)).map(({ name }) => name),
    ).toEqual(['trip']);
    expect((await read(home.reader, 's.trip')).columns.map(({ name }) => name)).toEqual(['from', 'to']);
    expect((await read(administrator, 's.trip')).columns.map(({ name }) => name)).toEqual(['from', 'pay', 'to']);
    expect((await read(home.reader, 's.report')).from).toEqual([uri('s.trip')]);
    expect(new Set((await read(administrator, 's.report')).from)).toEqual(new Set([uri('s.trip'), uri('s.secret')]));
    expect((await read(home.reader, 's.load')).reads).toEqual([uri('s.port')]);
    const texts = await Promise.all(
      (['ttl', 'jsonld'] as const).map((as) =>
        written(home.reader, as, ['s', 's.trip', 's.report', 's.load', 's.port']),
      ),
    );
    for (const text of texts) {
      expect(text).toContain(uri('s.trip'));
      for (const hidden of ['s.secret', 's.trip.pay']) expect(text).not.toContain(id(hidden));
    }
  });

  it('tells columns that refer to the same one each by itself, and what its source does not say as not known', async () => {
    const trip = await read(administrator, 's.trip');
    expect(trip.references.map(({ columns, theirs, table }) => [columns, theirs, table.uri])).toEqual([
      [['from'], ['code'], uri('s.port')],
      [['to'], ['code'], uri('s.port')],
    ]);
    expect(trip.columns.map(({ nullable }) => nullable)).toEqual([null, null, null]);
    expect((await read(administrator, 's.port')).columns).toMatchObject([
      { primaryKey: true, nullable: false, type: 'character(3)' },
    ]);
  });

  it('names the flows that write it, and their runs', async () => {
    expect(await read(administrator, 's.trip')).toMatchObject({ by: [uri('s.load')] });
    expect((await read(administrator, 's.report')).by).toEqual([]);
    const load = await read(administrator, 's.load');
    expect(load.writes).toEqual([uri('s.trip')]);
    expect(load.runs).toEqual([
      {
        uri: `${uri('s.load')}#run-a%20b`,
        state: 'done',
        began: '2026-01-01T00:00:00.000Z',
        ended: '2026-01-02T00:00:00.000Z',
      },
    ]);
  });

  it('stays in the order that was asked for, and is nothing of what is not there', async () => {
    const asked = [id('s.trip'), '00000000-0000-4000-8000-000000000000', id('s.port')];
    expect((await readDescribed(place.db, administrator, asked, BASE)).map(({ name }) => name)).toEqual([
      'trip',
      'port',
    ]);
    expect(await readDescribed(place.db, administrator, [], BASE)).toEqual([]);
    expect(
      await refused(
        writeDescribed(place.db, home.reader, {
          ids: [id('s.secret')],
          as: 'csvw',
          base: BASE,
          catalog: null,
          whoId: home.reader.id,
          keyId: null,
        }),
      ),
    ).toMatchObject({
      status: 404,
    });
    expect(await refused(written(administrator, 'csvw', ['s']))).toMatchObject({ status: 422, code: 'invalid' });
    expect(await refused(written(administrator, 'table-schema', ['s.trip.to']))).toMatchObject({
      status: 422,
      code: 'invalid',
    });
  });

  it('of a column by itself is its type, its table and where it comes from', async () => {
    const quads = turtle(await written(administrator, 'ttl', ['s.trip.to']));
    expect(await amiss(quads)).toEqual([]);
    const about = quads.filter(({ subject }) => subject.value === uri('s.trip.to')).map(({ object }) => object.value);
    expect(about).toEqual(expect.arrayContaining(['to', uri('s.trip'), `${uri('s.trip.to')}#type`]));
  });

  it('is well-formed and the same in both writings, whatever people and sources write', async () => {
    const anything = fc
      .string({ unit: 'binary', maxLength: 40 })
      .filter((text) => !/[\0\uD800-\uDFFF\uFFFE\uFFFF]/u.test(text));
    await fc.assert(
      fc.asyncProperty(anything, anything, anything, async (description, name, comment) => {
        await place.db.run('update asset set description = $2, native_comment = $3 where id = $1', [
          id('s.trip'),
          description || null,
          comment || null,
        ]);
        await place.db.run('update asset set name = $2 where id = $1', [id('s.trip.to'), name || 'to']);
        const quads = turtle(await written(administrator, 'ttl', ['s.trip']));
        const nodes = await written(administrator, 'jsonld', ['s.trip']);
        const context = Object.fromEntries(
          [...(await written(administrator, 'ttl', ['s.trip'])).matchAll(/@prefix (\w+): <([^>]+)>/g)].map(
            ([, short, long]) => [short, long],
          ),
        );
        const others = await jsonLd(`{"@context":${JSON.stringify(context)},"@graph":[${nodes}]}`);
        expect(await canonical(others)).toBe(await canonical(quads));
        const told = quads.filter(({ subject }) => subject.value === uri('s.trip'));
        const value = (property: string) =>
          told.find(({ predicate }) => predicate.value.endsWith(property))?.object.value;
        expect(value('/description')).toBe(
          description || comment || 'A table in Test source; nobody has described it yet.',
        );
        for (const as of ['csvw', 'table-schema'] as const) {
          const document = JSON.parse(await written(administrator, as, ['s.trip'])) as {
            tableSchema?: { columns: { titles: string }[] };
            fields?: { name: string }[];
          };
          const names =
            document.tableSchema?.columns.map(({ titles }) => titles) ?? document.fields?.map((field) => field.name);
          expect(names).toContain(name || 'to');
        }
      }),
      { numRuns: 40, endOnFailure: true },
    );
    await place.db.run("update asset set name = 'to' where id = $1", [id('s.trip.to')]);
    const all = turtle(await written(administrator, 'ttl', [...ids.keys()]));
    expect(undeclared(all)).toEqual([]);
    expect(await amiss(all)).toEqual([]);
  });
});
