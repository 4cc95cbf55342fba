import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { RunEvent } from '@idrel/contract/lineage';
import { CONNECTORS, type ConnectorInput } from '@idrel/readers/connectors';
import { type OrchestratorData, type ReportServerData, startStandIns } from '@idrel/standins';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readDataset, readEvents } from '../../readers/src/connectors/orchestrator/openLineage.ts';
import { imageFor, readImage } from '../src/access/image.ts';
import { fieldOrigins } from '../src/lineage/origins.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { encrypt } from '../src/platform/secrets.ts';
import { executeRun } from '../src/scanning/index.ts';
import { connectorInput } from '../src/sources/index.ts';
import {
  addPolicy,
  freshDatabase,
  furnish,
  personWith,
  postgresSource,
  refused,
  testConfig,
  urlOf,
  withClient,
} from './place.ts';

const system = `behind_${process.pid}`;
const config = testConfig();
const folder = mkdtempSync(join(tmpdir(), 'idrel-services-'));
const server = new URL(urlOf('postgres'));
const port = Number(server.port);
let place: Awaited<ReturnType<typeof freshDatabase>>;
let [domainId, personId] = ['', ''];
let standIns: { server: Server; port: number };

const connection = { kind: 'postgresql', host: 'localhost', port, database: system };
const fares = (from: object[]) => ({ name: 'revenue', type: 'number', label: 'Revenue in crowns', from });
const REPORTS: ReportServerData = {
  name: 'Wheelhouse',
  tokens: [
    { token: 'good', name: 'idrel', sees: ['w1'] },
    { token: 'blind', name: 'nobody', sees: [] },
  ],
  workspaces: [
    {
      id: 'w1',
      name: 'Sales',
      description: 'What was sold',
      datasets: [{ id: 'd1', connection, table: ['mart', 'fare_sales'] }],
      documents: [
        {
          id: 'r1',
          name: 'Fares',
          kind: 'report',
          query: 'select route, sum(revenue)',
          fields: [
            fares([{ dataset: 'd1', column: 'revenue', how: 'aggregated' }]),
            { name: 'route', from: [{ dataset: 'd1', column: 'route' }] },
          ],
          opened: { times: 12, people: 3 },
          image: { title: 'Fares', over: ['May'], series: [{ name: 'North', as: 'bar', values: [12] }] },
        },
        {
          id: 'r2',
          name: 'Board',
          kind: 'dashboard',
          fields: [
            fares([{ document: 'r1', field: 'revenue' }]),
            { name: 'lost', from: [{ dataset: 'gone', column: 'x' }] },
          ],
          image: { title: 'Board', over: [], series: [] },
        },
        {
          id: 'r3',
          name: 'Again',
          kind: 'report',
          fields: [fares([{ document: 'r1', field: 'revenue' }])],
          image: { title: 'Again', over: ['May'], series: [] },
        },
        ...Array.from({ length: 120 }, (_, index) => ({
          id: `x${index}`,
          name: index < 2 ? 'Same name' : `Report ${index}`,
          kind: 'report',
        })),
      ],
    },
    { id: 'w2', name: 'Closed', description: '', datasets: [], documents: [] },
  ],
};
const namespace = `postgres://127.0.0.1:${port}`;
const event = (more: Partial<RunEvent> & { at?: string; runId?: string }): RunEvent => ({
  eventTime: more.at ?? '2026-05-01T03:00:00Z',
  run: { runId: more.runId ?? 'run-1', ...(more.run ?? {}) },
  job: { namespace: 'night', name: 'load_fares' },
  ...more,
});
const LOAD = event({
  eventType: 'COMPLETE',
  inputs: [{ namespace, name: `${system}.core.payment` }],
  outputs: [
    {
      namespace,
      name: `${system}.mart.fare_sales`,
      facets: {
        columnLineage: {
          fields: {
            revenue: {
              inputFields: [
                {
                  namespace,
                  name: `${system}.core.payment`,
                  field: 'amount',
                  transformations: [{ type: 'DIRECT', subtype: 'AGGREGATION' }],
                },
              ],
            },
            route: {
              inputFields: [
                {
                  namespace,
                  name: `${system}.core.payment`,
                  field: 'route',
                  transformations: [{ type: 'DIRECT', subtype: 'IDENTITY' }],
                },
                {
                  namespace,
                  name: `${system}.core.payment`,
                  field: 'id',
                  transformations: [{ type: 'INDIRECT', subtype: 'JOIN' }],
                },
              ],
            },
          },
        },
      },
    },
  ],
});
const FLOWS: OrchestratorData = {
  name: 'Night crew',
  tokens: [{ token: 'good', name: 'idrel', sees: ['*'] }],
  events: [LOAD, event({ eventType: 'FAIL', runId: 'run-2', at: '2026-05-02T03:00:00Z' })],
};

const input = (path: string, token = 'good', more: Record<string, string> = {}): ConnectorInput => ({
  name: 'Service',
  address: { url: `http://127.0.0.1:${standIns.port}${path}`, ...more },
  secret: { username: '', password: token },
});
const failed = async (kind: 'reports' | 'orchestrator', asked: ConnectorInput) =>
  (await CONNECTORS[kind].test(asked)).find((step) => step.state === 'failed');
async function register(kind: string, path: string): Promise<string> {
  const [credential] = await place.db.rows<{ id: string }>(
    "insert into credential (name, kind, secret) values ($1, 'token', $2) returning id",
    [kind, encrypt(config.key, 'good')],
  );
  const [source] = await place.db.rows<{ id: string }>(
    'insert into source (name, kind, address, domain_id, credential_id) values ($1, $1, $2, $3, $4) returning id',
    [kind, JSON.stringify({ url: `http://127.0.0.1:${standIns.port}${path}` }), domainId, credential?.id],
  );
  return source?.id ?? '';
}
async function scan(sourceId: string) {
  const run = await place.db.one<{ id: string }>(
    "insert into scan_run (source_id, options) values ($1, '{}') returning id",
    [sourceId],
  );
  await executeRun(place.db, config, run?.id ?? '');
  const ended = await place.db.one<{ state: string; problem: unknown; comparison: { counts: object } }>(
    'select state, problem, comparison from scan_run where id = $1',
    [run?.id],
  );
  expect(ended).toMatchObject({ state: 'done', problem: null });
  return ended?.comparison.counts;
}
const edges = () =>
  place.db.rows<{ from: string; to: string; kind: string }>(
    `select fp.name || '.' || f.name as "from", tp.name || '.' || t.name as "to", e.kind from lineage_edge e
     join asset f on f.id = e.from_id join asset fp on fp.id = f.parent_id join asset t on t.id = e.to_id join asset tp on tp.id = t.parent_id order by 1, 2`,
  );

beforeAll(async () => {
  place = await freshDatabase();
  ({ domainId, personId } = await furnish(place.db));
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, 'reports.json'), JSON.stringify(REPORTS));
  writeFileSync(join(folder, 'flows.json'), JSON.stringify(FLOWS));
  standIns = await startStandIns(folder, 0);
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) =>
    client.query(
      'create schema core; create schema mart; create table core.payment (id int, route text, amount numeric); create table mart.fare_sales (route text, revenue numeric)',
    ),
  );
});
afterAll(async () => {
  standIns?.server.close();
  await place?.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
  rmSync(folder, { recursive: true, force: true });
});

describe('report server and orchestrator', () => {
  it('are tested step by step, and each wrong thing is named with what mends it', async () => {
    for (const [kind, path] of [
      ['reports', '/reports'],
      ['orchestrator', '/flows'],
    ] as const) {
      expect((await CONNECTORS[kind].test(input(path))).map((step) => step.state)).toEqual(Array(5).fill('passed'));
      expect(await failed(kind, input(path, 'bad'))).toMatchObject({
        step: 'Authenticate',
        detail: 'The service does not accept the token.',
      });
      expect(await failed(kind, { ...input(path), secret: null })).toMatchObject({
        step: 'Authenticate',
        mend: expect.stringContaining('token'),
      });
      expect(await failed(kind, input('/elsewhere'))).toMatchObject({
        step: 'Authenticate',
        detail: expect.stringContaining('/elsewhere/api/me'),
      });
      expect(await failed(kind, input(path, 'good', { url: 'http://127.0.0.1:1/x' }))).toMatchObject({
        step: 'Connect',
        detail: 'Nothing listens at 127.0.0.1:1.',
      });
    }
    expect(await failed('reports', input('/reports', 'blind'))).toMatchObject({
      step: 'Rights to read the catalog',
      detail: 'The token may see no workspace.',
    });
    expect(await failed('reports', input('/store'))).toMatchObject({ step: 'Authenticate' });
  });

  it('become assets with fields, use and runs; lineage crosses sources in whatever order they are scanned', async () => {
    const reports = await register('reports', '/reports');
    await scan(reports);
    // The table behind is in no catalog yet: only the edge within the workspace is drawn.
    const within = ['Again', 'Board'].map((to) => ({ from: 'Fares.revenue', to: `${to}.revenue`, kind: 'copied' }));
    expect(await edges()).toEqual(within);
    const [report] = await place.db.rows<{ kind: string; native: object; stats: object }>(
      "select kind, native, stats from asset where name = 'Fares'",
    );
    expect(report).toEqual({
      kind: 'report',
      native: { definition: 'select route, sum(revenue)', image: ['w1', 'r1'] },
      stats: { opened: 12, openedBy: 3 },
    });
    const names = await place.db.rows<{ name: string }>(
      "select name from asset where source_id = $1 and kind = 'report' and name like 'Same%' order by 1",
      [reports],
    );
    expect(names.map((row) => row.name)).toEqual(['Same name (x0)', 'Same name (x1)']);
    const [{ problems } = { problems: [] }] = await place.db.rows<{ problems: { reason: string }[] }>(
      "select f.problems from flow f join asset a on a.id = f.asset_id where a.name = 'Board'",
    );
    expect(problems.map(({ reason }) => reason)).toEqual([
      'The field lost names gone, which the workspace does not have.',
    ]);

    const jobs = await register('orchestrator', '/flows');
    await scan(jobs);
    const [flow] = await place.db.rows<{ kind: string; stats: object }>(
      "select kind, stats from asset where name = 'load_fares'",
    );
    expect(flow).toEqual({
      kind: 'flow',
      stats: { runs: 2, failed: 1, lastState: 'failed', lastAt: '2026-05-02T03:00:00.000Z' },
    });

    const behind = await postgresSource(place.db, { name: 'Behind', domainId, database: system, key: config.key });
    await scan(behind);
    const all = [
      ...within,
      { from: 'fare_sales.revenue', to: 'Fares.revenue', kind: 'aggregated' },
      { from: 'fare_sales.route', to: 'Fares.route', kind: 'copied' },
      { from: 'payment.amount', to: 'fare_sales.revenue', kind: 'aggregated' },
      { from: 'payment.route', to: 'fare_sales.route', kind: 'copied' },
    ];
    expect(await edges()).toEqual(expect.arrayContaining(all));
    expect(await edges()).toHaveLength(all.length);

    // What was told before it was in the catalog is no longer told as missing.
    const who = (await loadWho(place.db, personId)) as Who;
    const found = await place.db.one<{ id: string }>("select id from asset where name = 'Fares'");
    expect(
      (await fieldOrigins(place.db, who, found?.id ?? '')).map(({ from }) => from.map(({ path }) => path)),
    ).toEqual([['mart.fare_sales.revenue'], ['mart.fare_sales.route']]);

    // Scanned again, registered anew: the same edges, once.
    for (const source of [reports, jobs, behind]) await scan(source);
    expect(await edges()).toHaveLength(all.length);
    await place.db.run('delete from source where id = $1', [behind]);
    expect(await edges()).toHaveLength(within.length);
    await scan(await postgresSource(place.db, { name: 'Behind anew', domainId, database: system, key: config.key }));
    expect(await edges()).toHaveLength(all.length);
  });
});

describe('an image of a report', () => {
  const left = new AbortController().signal;
  const idOf = async (path: string) =>
    (
      await place.db.one<{ id: string }>(
        "select a.id from asset a join asset p on p.id = a.parent_id where p.name || '.' || a.name = $1 and a.gone_at is null",
        [path],
      )
    )?.id ?? '';
  const shown = async (who: Who, path: string) => {
    const { at, source } = await imageFor(place.db, who, await idOf(path));
    return readImage(await connectorInput(place.db, config, source.id), at, left);
  };
  const why = async (who: Who, path: string) => (await refused(shown(who, path)))?.detail;

  it('is for who may read all that lies behind it as it is, also through other reports', async () => {
    const reader = await personWith(place.db, 'Rune', 'reader', domainId);
    // Nothing is open as long as no policy opens it.
    expect(await refused(shown(reader, 'Sales.Fares'))).toMatchObject({ status: 403, code: 'forbidden' });
    expect(await why(reader, 'Sales.Fares')).toBe(
      'Its image is not shown: in it are values that you may not read as they are, of fare_sales.route and fare_sales.revenue.',
    );
    await addPolicy(place.db, { name: 'open', personIds: [reader.id], assetIds: [await idOf('mart.fare_sales')] });
    const { type, bytes } = await shown(reader, 'Sales.Fares');
    expect({ type, svg: bytes.toString('utf8') }).toEqual({
      type: 'image/svg+xml',
      svg: expect.stringMatching(/^<svg .*North/s),
    });
    expect((await shown(reader, 'Sales.Again')).type).toBe('image/svg+xml');
    const stranger = await personWith(place.db, 'Sten', 'reader', null);
    expect((await why(stranger, 'Sales.Fares'))?.includes('fare_sales.revenue')).toBe(true);
  });

  it('is not shown when a column behind it is hidden, or only some of its rows are open', async () => {
    const reader = await personWith(place.db, 'Ruth', 'reader', domainId);
    const table = await idOf('mart.fare_sales');
    await addPolicy(place.db, { name: 'open to Ruth', personIds: [reader.id], assetIds: [table] });
    expect((await shown(reader, 'Sales.Again')).type).toBe('image/svg+xml');
    const hide = { name: 'in part', effect: 'protect', everyone: true, assetIds: [table] } as const;
    const masked = await addPolicy(place.db, { ...hide, columns: ['revenue'], mask: { kind: 'blank' } });
    expect(await why(reader, 'Sales.Again')).toContain('of fare_sales.revenue.');
    await place.db.run('delete from policy where id = $1', [masked]);
    const limited = await addPolicy(place.db, {
      ...hide,
      rows: { column: 'route', values: ['North'], attribute: null, through: null },
    });
    expect(await why(reader, 'Sales.Again')).toContain('of fare_sales.revenue.');
    await place.db.run('delete from policy where id = $1', [limited]);
    expect((await shown(reader, 'Sales.Again')).type).toBe('image/svg+xml');
    // What somebody may not even see is not named.
    const elsewhere = await place.db.one<{ id: string }>("insert into domain (name) values ('Closed') returning id");
    await place.db.run('update asset set domain_id = $1 where parent_id = $2', [elsewhere?.id, table]);
    expect(await why(reader, 'Sales.Again')).toContain('of 1 column.');
    await place.db.run('update asset set domain_id = $1 where parent_id = $2', [domainId, table]);
  });

  it('is not shown where it is not known what lies behind it, or where it is none', async () => {
    const reader = await personWith(place.db, 'Rolf', 'reader', domainId);
    expect(await why(reader, 'Sales.Board')).toBe(
      'Its image is not shown: it is not known where all that it shows comes from (revenue and lost), so not whether you may read that.',
    );
    expect(await refused(shown(reader, 'Sales.Report 7'))).toMatchObject({ status: 422 });
    const steward = await personWith(place.db, 'Sofie', 'steward', domainId);
    await addPolicy(place.db, {
      name: 'open to Sofie',
      personIds: [steward.id],
      assetIds: [await idOf('mart.fare_sales')],
    });
    const at = await place.db.one<{ source: string }>('select source_id as source from asset where id = $1', [
      await idOf('Sales.Fares'),
    ]);
    const asked = connectorInput(place.db, config, at?.source ?? '');
    expect(await refused(readImage(await asked, ['w1', 'r9'], left))).toMatchObject({ status: 502 });
    expect(await refused(readImage(await asked, ['w1', '../../../me'], left))).toMatchObject({ status: 502 });
    expect(await refused(readImage(await asked, ['w1'], left))).toMatchObject({ status: 502 });
  });
});

describe('events of runs', () => {
  it.each([
    [
      { namespace: 'postgres://db.example.org:6543', name: 'shop.public.sale' },
      { place: 'postgresql://db.example.org:6543/shop', names: ['public', 'sale'] },
    ],
    [
      { namespace: 'postgres://LOCALHOST', name: 'shop.public.sale' },
      { place: 'postgresql://127.0.0.1:5432/shop', names: ['public', 'sale'] },
    ],
    [
      { namespace: 'mysql://db:3307', name: 'shop.sale' },
      { place: 'mariadb://db:3307/shop', names: ['sale'] },
    ],
    [
      { namespace: 's3://shore', name: '/tills/a.csv' },
      { place: 's3://shore', names: ['tills', 'a.csv'] },
    ],
    [{ namespace: 'kafka://broker', name: 'topic' }, undefined],
    [{ namespace: 'postgres://db', name: 'sale' }, undefined],
  ])('name datasets by the rules: %o', (dataset, read) => {
    expect(readDataset(dataset)).toEqual(read);
  });

  it('are put together by job; the newest that tells of columns counts, and what cannot be read is said', () => {
    const masked = event({
      at: '2026-05-03T00:00:00Z',
      runId: 'run-3',
      outputs: [
        {
          namespace: 's3://shore',
          name: 'out.csv',
          facets: {
            columnLineage: {
              fields: {
                key: {
                  inputFields: [
                    { namespace: 'kafka://b', name: 't', field: 'f' },
                    {
                      namespace: 's3://shore',
                      name: 'in.csv',
                      field: 'email',
                      transformations: [{ type: 'DIRECT', subtype: 'TRANSFORMATION', masking: true }],
                    },
                  ],
                },
              },
            },
          },
        },
        { namespace: 's3://shore', name: 'silent.csv' },
      ],
    });
    const [job, ...more] = readEvents([
      masked,
      event({ eventType: 'START', at: '2026-05-04T00:00:00Z', runId: 'run-4' }),
      LOAD,
    ]);
    expect(more).toEqual([]);
    // Newest last; what is told of a run without a state is no run of which one could say how it goes.
    expect(job?.runs.map(({ id, state, ended }) => ({ id, state, ended }))).toEqual([
      { id: 'run-1', state: 'done', ended: '2026-05-01T03:00:00Z' },
      { id: 'run-4', state: 'running', ended: null },
    ]);
    expect(job?.writes).toEqual(['out.csv', 'silent.csv'].map((name) => ({ namespace: 's3://shore', name })));
    const out = { dataset: { namespace: 's3://shore', name: 'out.csv' }, column: 'key' };
    const to = { ...out, at: { place: 's3://shore', names: ['out.csv'], column: 'key' } };
    expect(job?.edges).toEqual([
      // A system that is not read has no place; its dataset is kept beside the jobs.
      { from: { dataset: { namespace: 'kafka://b', name: 't' }, column: 'f', at: undefined }, to, kind: 'transformed' },
      {
        from: {
          dataset: { namespace: 's3://shore', name: 'in.csv' },
          column: 'email',
          at: { place: 's3://shore', names: ['in.csv'], column: 'email' },
        },
        to,
        kind: 'masked',
      },
    ]);
    expect(job?.problems).toEqual(['The events say nothing of the columns of silent.csv.']);
    expect(readEvents([event({ at: '2026-01-01T00:00:00Z', job: { namespace: 'a', name: 'b' } }), LOAD])).toHaveLength(
      2,
    );
  });
});
