import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { CONNECTORS, type ConnectorInput } from '@idrel/readers/connectors';
import { type OrchestratorData, type ReportServerData, startStandIns } from '@idrel/standins';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type RunEvent, readDataset, readEvents } from '../../readers/src/connectors/orchestrator/openLineage.ts';
import { encrypt } from '../src/platform/secrets.ts';
import { executeRun } from '../src/scanning/index.ts';
import { freshDatabase, furnish, postgresSource, testConfig, urlOf, withClient } from './place.ts';

const system = `behind_${process.pid}`;
const config = testConfig();
const folder = mkdtempSync(join(tmpdir(), 'idrel-services-'));
const server = new URL(urlOf('postgres'));
const port = Number(server.port);
let place: Awaited<ReturnType<typeof freshDatabase>>;
let domainId: string;
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
        },
        {
          id: 'r2',
          name: 'Board',
          kind: 'dashboard',
          fields: [
            fares([{ document: 'r1', field: 'revenue' }]),
            { name: 'lost', from: [{ dataset: 'gone', column: 'x' }] },
          ],
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
  ({ domainId } = await furnish(place.db));
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
    expect(await edges()).toEqual([{ from: 'Fares.revenue', to: 'Board.revenue', kind: 'copied' }]);
    const [report] = await place.db.rows<{ kind: string; native: object; stats: object }>(
      "select kind, native, stats from asset where name = 'Fares'",
    );
    expect(report).toEqual({
      kind: 'report',
      native: { definition: 'select route, sum(revenue)' },
      stats: { opened: 12, openedBy: 3 },
    });
    const names = await place.db.rows<{ name: string }>(
      "select name from asset where source_id = $1 and kind = 'report' and name like 'Same%' order by 1",
      [reports],
    );
    expect(names.map((row) => row.name)).toEqual(['Same name (x0)', 'Same name (x1)']);
    const [{ problems } = { problems: [] }] = await place.db.rows<{ problems: string[] }>(
      "select f.problems from flow f join asset a on a.id = f.asset_id where a.name = 'Board'",
    );
    expect(problems).toEqual(['The field lost names gone, which the workspace does not have.']);

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
      { from: 'Fares.revenue', to: 'Board.revenue', kind: 'copied' },
      { from: 'fare_sales.revenue', to: 'Fares.revenue', kind: 'aggregated' },
      { from: 'fare_sales.route', to: 'Fares.route', kind: 'copied' },
      { from: 'payment.amount', to: 'fare_sales.revenue', kind: 'aggregated' },
      { from: 'payment.route', to: 'fare_sales.route', kind: 'copied' },
    ];
    expect(await edges()).toEqual(expect.arrayContaining(all));
    expect(await edges()).toHaveLength(all.length);

    // Scanned again, registered anew: the same edges, once.
    for (const source of [reports, jobs, behind]) await scan(source);
    expect(await edges()).toHaveLength(all.length);
    await place.db.run('delete from source where id = $1', [behind]);
    expect(await edges()).toHaveLength(1);
    await scan(await postgresSource(place.db, { name: 'Behind anew', domainId, database: system, key: config.key }));
    expect(await edges()).toHaveLength(all.length);
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
    expect(job).toMatchObject({
      runs: 3,
      failed: 0,
      last: { state: 'running', at: '2026-05-04T00:00:00Z' },
      writes: ['s3://shore/out.csv', 's3://shore/silent.csv'],
    });
    expect(job?.edges).toEqual([
      {
        from: { place: 's3://shore', names: ['in.csv'], column: 'email' },
        to: { place: 's3://shore', names: ['out.csv'], column: 'key' },
        kind: 'masked',
      },
    ]);
    expect(job?.problems).toEqual([
      'kafka://b t is in a system that is not read.',
      'The events say nothing of the columns of silent.csv.',
    ]);
    expect(readEvents([event({ at: '2026-01-01T00:00:00Z', job: { namespace: 'a', name: 'b' } }), LOAD])).toHaveLength(
      2,
    );
  });
});
