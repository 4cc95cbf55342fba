import { type ExportedAsset, ExportedLineage, exportRule, readExport } from '@idrel/core/lineage';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { exportLineage } from '../src/lineage/exported.ts';
import { impactList } from '../src/lineage/impact.ts';
import { freshDatabase, personWith, refused, staffed } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof staffed>>;
const ids = new Map<string, string>();

beforeAll(async () => {
  place = await freshDatabase();
  home = await staffed(place.db);
  const add = async (
    name: string,
    kind: string,
    parent: string | null,
    domain = home.domainId,
    source = home.sourceId,
  ) => {
    const key = ['db', 's', ...name.split('.')].join('\u001f');
    const made = await place.db.one<{ id: string }>(
      'insert into asset (source_id, parent_id, domain_id, kind, name, key, depth) values ($1, $2, $3, $4, $5, $6, 2) returning id',
      [source, parent && ids.get(parent), domain, kind, name.split('.').at(-1), key],
    );
    ids.set(name, made?.id ?? '');
  };
  const other = await place.db.one<{ id: string }>(
    "insert into source (name, kind, address, domain_id) values ('Reports', 'postgresql', '{}', $1) returning id",
    [home.domainId],
  );
  for (const [table, kind] of [
    ['passenger', 'table'],
    ['secret', 'view'],
    ['alone', 'table'],
  ] as const) {
    const domain = table === 'secret' ? home.elsewhere : home.domainId;
    await add(table, kind, null, domain);
    await add(`${table}.mail`, 'column', table, domain);
  }
  await add('report', 'report', null, home.domainId, other?.id);
  await add('report.who', 'column', 'report', home.domainId, other?.id);
  const edge = async (from: string, to: string, table: string) => {
    const flow = await place.db.one<{ id: string }>(
      "insert into flow (source_id, asset_id, kind, statement) values ($1, $2, 'view', 'select') returning id",
      [home.sourceId, ids.get(table)],
    );
    await place.db.run("insert into lineage_edge (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'copied')", [
      flow?.id,
      ids.get(from),
      ids.get(to),
    ]);
    await place.db.run("insert into lineage_influence (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'filter')", [
      flow?.id,
      ids.get(from),
      ids.get(table),
    ]);
  };
  await edge('passenger.mail', 'secret.mail', 'secret');
  await edge('secret.mail', 'report.who', 'report');
  await place.db.run("update asset set standing = 'trusted' where id = $1", [ids.get('report')]);
});
afterAll(() => place.drop());

const exported = async (who: typeof home.who) =>
  readExport(Buffer.from((await exportLineage(place.db, who, home.sourceId)).content, 'base64').toString());

describe('an export of what is made of a source', () => {
  it('tells what the impact list tells, for each who asks', async () => {
    for (const who of [home.who, home.reader]) {
      const lineage = new ExportedLineage(await exported(who));
      for (const names of [
        ['s', 'passenger'],
        ['s', 'passenger', 'mail'],
        ['s', 'alone', 'mail'],
      ]) {
        const asset = lineage.find(names);
        const told = asset ? lineage.madeOf(asset, exportRule('kind:report standing:trusted')) : [];
        const expected = await impactList(
          place.db,
          who,
          ids.get(names.slice(1).join('.')) ?? '',
          'downstream',
          'kind:report standing:trusted',
        );
        const rows = (list: readonly (readonly unknown[])[]) => list.map((row) => JSON.stringify(row)).sort();
        expect(
          rows(
            told.map(({ asset: one, distance, how, matches, owners }) => [
              one.id,
              one.path,
              distance,
              how,
              matches,
              owners,
            ]),
          ),
        ).toEqual(rows(expected.map((one) => [one.id, one.path, one.distance, one.how, one.matches, one.owners])));
      }
    }
  });

  it('says nothing of what its writer may not see but that ways lead through it', async () => {
    const { assets, edges } = await exported(home.reader);
    const names = (list: readonly ExportedAsset[]) => list.map(({ path }) => path).sort();
    expect(names(assets).some((path) => path.includes('secret'))).toBe(false);
    expect(edges.some(({ to }) => to === ids.get('secret.mail'))).toBe(true);
    expect(names((await exported(home.who)).assets).some((path) => path.includes('secret'))).toBe(true);
  });

  it('is for who may see the source', async () => {
    const nobody = await personWith(place.db, 'Nobody', 'reader', home.elsewhere);
    expect(await refused(exportLineage(place.db, nobody, home.sourceId))).toMatchObject({ status: 404 });
  });
});
