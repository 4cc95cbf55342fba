import { type DatasetEvent, ReceivedEvent, RunEvent } from '@idrel/contract/lineage';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { loadWho, type Who } from '../src/people/index.ts';
import { listFlowRuns } from '../src/scanning/flowRuns.ts';
import { executeRun, failedFlows, seeFailed } from '../src/scanning/index.ts';
import { eventsOf, makeEventKey, receiveEvent, sourceOfKey } from '../src/scanning/runEvents.ts';
import { settleEvents } from '../src/scanning/settleEvents.ts';
import { freshDatabase, furnish, personWith, postgresSource, refused, testConfig, urlOf, withClient } from './place.ts';

const system = `piped_${process.pid}`;
const config = testConfig();
const { hostname, port } = new URL(urlOf(system));
const WAREHOUSE = `postgres://${hostname}:${port}`;
let place: Awaited<ReturnType<typeof freshDatabase>>;
let [sourceId, domainId] = ['', ''];
let who: Who;

beforeAll(async () => {
  place = await freshDatabase();
  const made = await furnish(place.db);
  domainId = made.domainId;
  who = (await loadWho(place.db, made.personId)) as Who;
  const source = await place.db.one<{ id: string }>(
    "insert into source (name, kind, address, domain_id) values ('Pipelines', 'events', '{}', $1) returning id",
    [domainId],
  );
  sourceId = source?.id ?? '';
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) =>
    client.query('create schema core; create table core.sale (vessel text, amount numeric)'),
  );
});
afterAll(async () => {
  await place?.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
});

type Event = RunEvent;
const BEGIN = Date.now() - 3_600_000;
let seconds = 0;
const event = (more: Partial<Event> & { runId?: string } = {}): Event => {
  const { runId = 'r1', ...rest } = more;
  seconds += 1;
  return {
    eventType: 'COMPLETE',
    eventTime: new Date(BEGIN + seconds * 1000).toISOString(),
    run: { runId },
    job: { namespace: 'night', name: 'load sales' },
    ...rest,
  };
};
const column = (namespace: string, name: string, field: string, subtype = 'IDENTITY') => ({
  namespace,
  name,
  field,
  transformations: [{ type: 'DIRECT', subtype }],
});
const TOPIC = ['kafka://tills', 'sales'] as const;
const SALE = `${system}.core.sale`;
/** Takes sales from a topic into the warehouse. */
const load = (more: Parameters<typeof event>[0] = {}): Event =>
  event({
    job: {
      namespace: 'night',
      name: 'load sales',
      facets: { sql: { query: 'insert into core.sale select …' }, documentation: { description: 'Takes the sales.' } },
    },
    inputs: [
      {
        namespace: TOPIC[0],
        name: TOPIC[1],
        facets: {
          schema: { fields: [{ name: 'ship', type: 'string', description: 'Which ship' }, { name: 'cents' }] },
        },
      },
    ],
    outputs: [
      {
        namespace: WAREHOUSE,
        name: SALE,
        facets: {
          columnLineage: {
            fields: {
              vessel: { inputFields: [column(...TOPIC, 'ship')] },
              amount: { inputFields: [column(...TOPIC, 'cents', 'TRANSFORMATION')] },
            },
          },
        },
        outputFacets: { outputStatistics: { rowCount: 120 } },
      },
    ],
    ...more,
  });

async function send(...events: (Event | DatasetEvent)[]): Promise<number> {
  for (const one of events) await place.db.transaction((tx) => receiveEvent(tx, sourceId, one));
  return settleEvents(place.db, sourceId);
}
const idOf = async (name: string) =>
  (await place.db.one<{ id: string }>('select id from asset where name = $1 and gone_at is null', [name]))?.id ?? '';
const otherDomain = async () =>
  (await place.db.one<{ id: string }>("insert into domain (name) values ('Elsewhere') returning id")) ?? { id: '' };
const edges = () =>
  place.db.rows<{ from: string; to: string; kind: string }>(
    `
      select fp.name || '.' || f.name as "from", tp.name || '.' || t.name as "to", e.kind
      from lineage_edge e
      join asset f on f.id = e.from_id
      join asset fp on fp.id = f.parent_id
      join asset t on t.id = e.to_id
      join asset tp on tp.id = t.parent_id
      order by 1`,
  );
const runs = async (): Promise<number> =>
  (await place.db.one<{ n: number }>('select count(*)::int as n from scan_run where source_id = $1', [sourceId]))?.n ??
  0;

describe('the key by which events are sent', () => {
  const by = (authorization?: string) => sourceOfKey(place.db, authorization);

  it('opens one source, and ends when another is made', async () => {
    const make = () => place.db.transaction((tx) => makeEventKey(tx, who, sourceId));
    const [first, second] = [await make(), await make()];
    expect(await by(`Bearer ${second.key}`)).toBe(sourceId);
    for (const wrong of [undefined, 'Bearer x', `Basic ${second.key}`, `Bearer ${first.key}`])
      expect(await refused(by(wrong))).toMatchObject({ status: 401, code: 'unknown-pipeline' });
    const kept = await place.db.one<{ row: string }>('select row_to_json(k)::text as row from event_key k');
    expect(kept?.row).not.toContain(second.key.slice(13));
  });

  it('is made by source administrators alone, for sources that take events', async () => {
    const reader = await personWith(place.db, 'Rune', 'reader', domainId);
    expect(await refused(makeEventKey(place.db, reader, sourceId))).toMatchObject({ status: 403 });
    expect(await refused(eventsOf(place.db, reader, sourceId))).toMatchObject({ status: 403 });
    const other = await place.db.one<{ id: string }>("select id from source where kind = 'postgresql'");
    expect(await refused(makeEventKey(place.db, who, other?.id ?? ''))).toMatchObject({ status: 409 });
  });
});

describe('an event', () => {
  it.each([
    ['without a time', { eventTime: undefined }],
    ['of a job without a name', { job: { namespace: 'night' } }],
    ['of a type that the standard does not have', { eventType: 'DONE' }],
    [
      'with fields that are none',
      { outputs: [{ namespace: 'a', name: 'b', facets: { columnLineage: { fields: 'x' } } }] },
    ],
    [
      'with a count that is none',
      { outputs: [{ namespace: 'a', name: 'b', outputFacets: { outputStatistics: { rowCount: -1 } } }] },
    ],
  ])('%s is refused', (_, more) => {
    expect(RunEvent.validate({ ...event(), ...more }).error).toBeDefined();
    expect(ReceivedEvent.validate({ ...event(), ...more }).error).toBeDefined();
  });

  it('may hold what is not read', () => {
    const rich = {
      ...load(),
      producer: 'https://tarnholm.example/pipelines',
      schemaURL: 'https://openlineage.io/spec/2-0-2/OpenLineage.json#/$defs/RunEvent',
      run: { runId: 'r', facets: { processing_engine: { version: '3.5' }, parent: { run: { runId: 'p' } } } },
    };
    expect(RunEvent.validate(rich)).toEqual({ value: rich });
  });
});

describe('events of a pipeline', () => {
  it('become a flow with its runs; what other sources hold is joined when it is known, other datasets are kept here', async () => {
    expect(await send(event({ eventType: 'START' }), load())).toBe(2);
    const flow = await place.db.one(
      "select kind, native_comment as comment, native ->> 'definition' as code, stats from asset where name = 'load sales'",
    );
    expect(flow).toEqual({
      kind: 'flow',
      comment: 'Takes the sales.',
      code: 'insert into core.sale select …',
      stats: { runs: 1, failed: 0, lastState: 'done', lastAt: expect.any(String) },
    });
    const topic = await place.db.rows<{ name: string; comment: string | null; native: object }>(
      "select c.name, c.native_comment as comment, c.native from asset c join asset t on t.id = c.parent_id where t.name = 'sales' order by c.position",
    );
    expect(topic).toEqual([
      { name: 'ship', comment: 'Which ship', native: { type: 'string', nullable: true } },
      { name: 'cents', comment: null, native: { type: 'not told', nullable: true } },
    ]);
    expect(await edges()).toEqual([]);
    const warehouse = await postgresSource(place.db, {
      name: 'Warehouse',
      domainId,
      database: system,
      key: config.key,
    });
    const run = await place.db.one<{ id: string }>(
      'insert into scan_run (source_id, options) values ($1, \'{"sample": false}\') returning id',
      [warehouse],
    );
    await executeRun(place.db, config, run?.id ?? '');
    expect(await edges()).toEqual([
      { from: 'sales.cents', to: 'sale.amount', kind: 'transformed' },
      { from: 'sales.ship', to: 'sale.vessel', kind: 'copied' },
    ]);
  });

  it('are noted without a run of the source where only runs are new; the same again changes nothing', async () => {
    const [before, failed] = [await runs(), event({ runId: 'r2', eventType: 'FAIL' })];
    const broken = { ...failed, run: { runId: 'r2', facets: { errorMessage: { message: 'disk full' } } } };
    expect(await send(event({ runId: 'r2', eventType: 'START' }), broken)).toBe(2);
    expect(await send(broken)).toBe(0);
    expect(await runs()).toBe(before);
    expect(await listFlowRuns(place.db, who, await idOf('load sales'), 10)).toEqual({
      items: [
        {
          id: 'r2',
          state: 'failed',
          began: expect.anything(),
          ended: expect.anything(),
          rows: null,
          message: 'disk full',
          checks: [],
        },
        {
          id: 'r1',
          state: 'done',
          began: expect.anything(),
          ended: expect.anything(),
          rows: 120,
          message: null,
          checks: [],
        },
      ],
      total: 2,
    });
    const shown = await place.db.one("select stats ->> 'lastMessage' as told from asset where name = 'load sales'");
    expect(shown).toEqual({ told: 'disk full' });
    expect(await edges()).toHaveLength(2);
  });

  it('a run that failed comes onto the worklist of those who answer for what lies behind it, until they noted it or it went well', async () => {
    const owner = await personWith(place.db, 'Ottar', 'reader', domainId);
    const sale = await idOf('sale');
    const lists = async (person: Who) =>
      (await failedFlows(place.db, person)).map(({ path, runId, message, reached }) => ({
        path,
        runId,
        message,
        mine: reached.filter(({ mine }) => mine).map((asset) => asset.path),
      }));
    expect(await lists(owner)).toEqual([]);
    await place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [
      sale,
      owner.id,
    ]);
    const told = { path: 'night/load sales', runId: 'r2', message: 'disk full', mine: ['core.sale'] };
    expect(await lists(owner)).toEqual([told]);
    // Nobody owns the flow itself: it is also the affair of the stewards of its domain.
    expect(await lists(await personWith(place.db, 'Sofie', 'steward', domainId))).toMatchObject([
      { runId: 'r2', mine: [] },
    ]);
    const stranger = await personWith(place.db, 'Sten', 'steward', (await otherDomain()).id);
    expect(await lists(stranger)).toEqual([]);
    const flow = await idOf('load sales');
    await seeFailed(place.db, owner, flow, 'r2', true);
    expect(await lists(owner)).toEqual([]);
    await seeFailed(place.db, owner, flow, 'r2', false);
    expect(await lists(owner)).toEqual([told]);
    expect(await refused(seeFailed(place.db, stranger, flow, 'r2', true))).toMatchObject({ status: 404 });
    await send(event({ runId: 'r2b' }));
    expect(await lists(owner)).toEqual([]);
  });

  it('an end stays one when its beginning comes late; checks that failed are told first', async () => {
    const assertion = (what: string, success: boolean) => ({ assertion: what, success, column: 'ship' });
    const checked = load({ runId: 'r3' });
    const late = { ...event({ runId: 'r3', eventType: 'START' }), eventTime: '2026-04-30T00:00:00Z' };
    const [input, ...others] = checked.inputs ?? [];
    const inputFacets = {
      dataQualityAssertions: { assertions: [assertion('not_null', true), assertion('unique', false)] },
    };
    await send({ ...checked, inputs: input ? [{ ...input, inputFacets }, ...others] : [] }, late);
    const { items } = await listFlowRuns(place.db, who, await idOf('load sales'), 1);
    expect(items[0]).toMatchObject({
      id: 'r3',
      state: 'done',
      checks: [
        { of: 'sales.ship', what: 'unique', passed: false },
        { of: 'sales.ship', what: 'not_null', passed: true },
      ],
    });
  });

  it('a job that does something else changes its edges, and another job leaves them alone', async () => {
    const before = await runs();
    await send(
      event({
        job: { namespace: 'night', name: 'count' },
        outputs: [
          {
            namespace: 'kafka://tills',
            name: 'counts',
            facets: {
              columnLineage: { fields: { n: { inputFields: [column(WAREHOUSE, SALE, 'amount', 'AGGREGATION')] } } },
            },
          },
        ],
      }),
    );
    expect(await runs()).toBe(before + 1);
    expect((await edges()).map(({ from, to }) => `${from} > ${to}`)).toEqual([
      'sale.amount > counts.n',
      'sales.cents > sale.amount',
      'sales.ship > sale.vessel',
    ]);
    const only = load();
    const [output] = only.outputs ?? [];
    const fields = { vessel: { inputFields: [column(...TOPIC, 'ship')] } };
    await send({ ...only, outputs: output ? [{ ...output, facets: { columnLineage: { fields } } }] : [] });
    expect((await edges()).map(({ from, to }) => `${from} > ${to}`)).toEqual([
      'sale.amount > counts.n',
      'sales.ship > sale.vessel',
    ]);
    // What the topic holds is still told, by the schema that was sent.
    expect(await idOf('cents')).not.toBe('');
  });

  it('what cannot be put together is set aside with the reason, and keeps no others waiting', async () => {
    await place.db.run(
      'insert into run_event (source_id, digest, namespace, job, event) values ($1, \'x\', \'night\', \'broken\', \'{"job": {"namespace": "night", "name": "broken"}, "eventTime": 5, "outputs": {}}\')',
      [sourceId],
    );
    expect(await send(event({ runId: 'r9' }))).toBe(2);
    const told = await eventsOf(place.db, who, sourceId);
    expect(told).toMatchObject({ waiting: 0, jobs: 2, key: { madeBy: 'Nils Test' } });
    expect(told.problems).toEqual([
      { job: 'night/broken', at: expect.anything(), problem: expect.stringMatching(/./) },
    ]);
    expect((await listFlowRuns(place.db, who, await idOf('load sales'), 1)).items[0]?.id).toBe('r9');
  });

  it('of each job the newest are kept; what older ones told still holds', async () => {
    await place.db.run(
      `
        insert into run_event (source_id, digest, namespace, job, event)
        select $1, int4send(n), 'night', 'load sales', $2::jsonb || jsonb_build_object('run', jsonb_build_object('runId', 'm' || n), 'eventTime', $3::timestamptz + n * interval '1 second')
        from generate_series(1, 900) n`,
      [sourceId, JSON.stringify(event()), '2026-06-01T00:00:00Z'],
    );
    expect(await settleEvents(place.db, sourceId)).toBe(900);
    const kept = await place.db.one("select count(*)::int as n from run_event where job = 'load sales'");
    expect(kept).toEqual({ n: 20 });
    expect((await edges()).map(({ to }) => to)).toEqual(['counts.n', 'sale.vessel']);
    expect(await place.db.one("select native ->> 'definition' as code from asset where name = 'load sales'")).toEqual({
      code: 'insert into core.sale select …',
    });
  });

  it('a flood of them is refused for a while', async () => {
    await place.db.run(
      "insert into run_event (source_id, digest, namespace, job, event) select $1, int4send(-n), 'n', 'j', '{}' from generate_series(1, 20000) n",
      [sourceId],
    );
    expect(await refused(place.db.transaction((tx) => receiveEvent(tx, sourceId, event())))).toMatchObject({
      status: 429,
      code: 'too-many-events',
    });
  });
});

describe('what the standard tells beside the columns', () => {
  beforeAll(() => place.db.run('delete from run_event where settled_at is null'));

  it('a job that tells of no columns is lineage between whole tables; what decides about rows and what is said of a change is kept', async () => {
    const influencing = (field: string, subtype?: string) => ({
      ...column(...TOPIC, field),
      transformations: [{ type: 'INDIRECT', ...(subtype ? { subtype } : {}) }],
    });
    await send(
      event({
        job: { namespace: 'night', name: 'archive' },
        inputs: [
          { namespace: TOPIC[0], name: TOPIC[1] },
          { namespace: WAREHOUSE, name: SALE },
        ],
        outputs: [{ namespace: 'kafka://tills', name: 'archived' }],
      }),
      event({
        job: { namespace: 'night', name: 'rank' },
        outputs: [
          {
            namespace: WAREHOUSE,
            name: SALE,
            facets: {
              columnLineage: {
                fields: {
                  amount: {
                    inputFields: [
                      {
                        ...column(...TOPIC, 'cents'),
                        transformations: [
                          { type: 'DIRECT', subtype: 'TRANSFORMATION', description: 'cents / 100' },
                          { type: 'INDIRECT', subtype: 'SORT' },
                        ],
                      },
                      influencing('ship', 'GROUP_BY'),
                    ],
                  },
                },
                dataset: [influencing('ship', 'JOIN'), influencing('cents')],
              },
            },
          },
        ],
      }),
    );
    const of = (flow: string, table: string, what: string) =>
      place.db.rows<{ told: string }>(
        `
          select coalesce(fp.name || '.', '') || f.name || ' ' || e.kind || ' ' || t.name || ${what} as told
          from ${table} e
          join flow w on w.id = e.flow_id
          join asset j on j.id = w.asset_id and j.name = $1
          join asset f on f.id = e.from_id
          left join asset fp on fp.id = f.parent_id and f.kind = 'column'
          join asset t on t.id = e.to_id
          order by 1`,
        [flow],
      );
    expect((await of('archive', 'lineage_edge', "''")).map(({ told }) => told)).toEqual([
      'sale transformed archived',
      'sales transformed archived',
    ]);
    expect((await of('rank', 'lineage_edge', "' by ' || e.expression")).map(({ told }) => told)).toEqual([
      'sales.cents transformed amount by cents / 100',
    ]);
    expect((await of('rank', 'lineage_influence', "''")).map(({ told }) => told)).toEqual([
      'sales.cents filter sale',
      'sales.cents sort sale',
      'sales.ship group sale',
      'sales.ship join sale',
    ]);
  });

  it('what is told of a dataset alone is known, without a job', async () => {
    const told = (facets: DatasetEvent['dataset']['facets']): DatasetEvent => ({
      eventTime: '2026-05-01T00:00:00.000Z',
      dataset: { namespace: 'kafka://tills', name: 'refunds', facets },
    });
    const first = told({ schema: { fields: [{ name: 'reason', type: 'string' }] } });
    expect(ReceivedEvent.validate(first)).toEqual({ value: first });
    expect(ReceivedEvent.validate({ ...first, job: { namespace: 'a', name: 'b' } }).error?.message).toMatch(
      /job.*dataset/,
    );
    const jobs = async () => (await eventsOf(place.db, who, sourceId)).jobs;
    const before = await jobs();
    expect(await send(first, told({ documentation: { description: 'Money that went back.' } }))).toBe(2);
    expect(await jobs()).toBe(before);
    expect(
      await place.db.rows(
        "select a.kind, a.name, a.native_comment as comment from asset a join asset p on p.id = a.parent_id where 'refunds' in (a.name, p.name) order by a.depth",
      ),
    ).toEqual([
      { kind: 'table', name: 'refunds', comment: 'Money that went back.' },
      { kind: 'column', name: 'reason', comment: null },
    ]);
    expect(await place.db.rows("select from asset where kind = 'flow' and name = ''")).toEqual([]);
  });
});
