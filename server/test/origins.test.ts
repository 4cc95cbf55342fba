import { afterAll, beforeAll, expect, it } from 'vitest';
import { fieldOrigins } from '../src/lineage/origins.ts';
import { freshDatabase, refused, staffed } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let here: Awaited<ReturnType<typeof staffed>>;
let report = '';
const one = async (sql: string, bind: unknown[]) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
const asset = (name: string, kind: string, parent: string | null, position = 0, domain = here.domainId) =>
  one(
    `insert into asset (source_id, domain_id, kind, name, key, depth, parent_id, position)
     select $1, $2, $3, $4, coalesce((select key || chr(31) from asset where id = $5), '') || $4, 0, $5, $6 returning id`,
    [here.sourceId, domain, kind, name, parent, position],
  );

beforeAll(async () => {
  place = await freshDatabase();
  here = await staffed(place.db);
  report = await asset('Revenue', 'report', null);
  const [route, month, sum] = [
    await asset('route', 'column', report, 0),
    await asset('month', 'column', report, 1),
    await asset('sum', 'column', report, 2),
  ];
  const [sold, pay] = [await asset('sold', 'table', null), await asset('pay', 'table', null, 0, here.elsewhere)];
  const amount = await asset('amount', 'column', sold);
  const secret = await asset('grade', 'column', pay, 0, here.elsewhere);
  const flow = await one(
    "insert into flow (source_id, asset_id, kind, statement) values ($1, $2, 'report', '') returning id",
    [here.sourceId, report],
  );
  for (const [from, kind] of [
    [amount, 'aggregated'],
    [secret, 'transformed'],
  ])
    await place.db.run('insert into lineage_edge (from_id, to_id, flow_id, kind) values ($1, $2, $3, $4)', [
      from,
      sum,
      flow,
      kind,
    ]);
  for (let at = 0; at < 23; at += 1)
    await place.db.run(
      "insert into remote_edge (flow_id, kind, from_place, from_path, from_column, to_id) values ($1, 'copied', 'postgresql://db:5432/mart', $2, 'name', $3)",
      [flow, `mart\u001fr_${String(at).padStart(2, '0')}`, route],
    );
  expect(month).not.toBe('');
});
afterAll(() => place?.drop());

it('tells of each field the columns it comes from, also those that are not in the catalog, and counts what is not to be seen', async () => {
  const [route, month, sum] = await fieldOrigins(place.db, here.reader, report);
  expect(route).toMatchObject({ name: 'route', more: 3, hidden: 0 });
  expect(route?.from).toHaveLength(20);
  expect(route?.from[0]).toEqual({
    id: null,
    path: 'mart.r_00.name',
    source: 'postgresql://db:5432/mart',
    kind: 'copied',
  });
  expect(month).toMatchObject({ name: 'month', from: [], more: 0, hidden: 0 });
  expect(sum).toMatchObject({
    from: [{ path: 'amount', source: 'Test source', kind: 'aggregated' }],
    hidden: 1,
  });
  expect((await fieldOrigins(place.db, here.who, report))[2]).toMatchObject({
    from: [{ path: 'amount' }, { path: 'grade' }],
    hidden: 0,
  });
  expect(await refused(fieldOrigins(place.db, here.stranger, report))).toMatchObject({ status: 404 });
});
