import { createServer, type Server } from 'node:net';
import { CONNECTORS, keyOf } from '@idrel/readers/connectors';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { encrypt } from '../src/platform/secrets.ts';
import { executeRun } from '../src/scanning/index.ts';
import { freshDatabase, furnish, testConfig, urlOf, withClient } from './place.ts';

const system = `bad_${process.pid}`;
const role = `bad_reader_${process.pid}`;
const config = testConfig();
const LONGEST = `${'n'.repeat(60)}é1`; // 63 bytes
const ODD = ['we"ird.schema', 'tä ble 😀', `a.b"c'd`, 'new\nline', ' ', "'; drop table x; --"];
const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
let place: Awaited<ReturnType<typeof freshDatabase>>;
let domainId: string;

const address = () => ({
  host: new URL(urlOf(system)).hostname,
  port: Number(new URL(urlOf(system)).port),
  database: system,
});
const makeSource = async (name: string, where: Record<string, string | number>) => {
  const [credential] = await place.db.rows<{ id: string }>(
    'insert into credential (name, username, secret) values ($1, $2, $3) returning id',
    [name, role, encrypt(config.key, 'reading')],
  );
  const [source] = await place.db.rows<{ id: string }>(
    "insert into source (name, kind, address, domain_id, credential_id) values ($1, 'postgresql', $2, $3, $4) returning id",
    [name, JSON.stringify(where), domainId, credential?.id],
  );
  return source?.id ?? '';
};
const run = async (sourceId: string, options: Record<string, unknown> = {}) => {
  const [row] = await place.db.rows<{ id: string }>(
    'insert into scan_run (source_id, options) values ($1, $2) returning id',
    [sourceId, JSON.stringify({ rows: 50, ...options })],
  );
  await executeRun(place.db, config, row?.id ?? '');
  const ended = await place.db.one<{ state: string; problem: { what: string; mend: string } | null }>(
    'select state, problem from scan_run where id = $1',
    [row?.id],
  );
  const log = await place.db.rows<{ level: string; text: string }>(
    'select level, text from scan_log where run_id = $1 order by id',
    [row?.id],
  );
  return {
    ...ended,
    log: log.map((line) => line.text),
    problems: log.filter((line) => line.level === 'problem').map((line) => line.text),
  };
};

beforeAll(async () => {
  place = await freshDatabase();
  ({ domainId } = await furnish(place.db));
  await withClient(urlOf('postgres'), async (client) => {
    await client.query(`create database ${system}`);
    await client.query(`create role ${role} login password 'reading'`);
  });
  await withClient(urlOf(system), async (client) => {
    const [schema, table, ...columns] = ODD.map(quote);
    await client.query(
      `create schema ${schema}; create table ${schema}.${table} (${columns.map((name) => `${name} text`).join(', ')}, ${quote(LONGEST)} text)`,
    );
    await client.query(
      `insert into ${schema}.${table} select 'a' || n || '@example.org', 'x', 'y', 'z', 'w' from generate_series(1, 60) n`,
    );
    await client.query(
      `create view ${schema}.${quote('view.of "it"')} as select ${columns[0]} as ${quote('e.mail')} from ${schema}.${table}`,
    );
    await client.query('create schema wide');
    await client.query(
      `create table wide.most (${Array.from({ length: 1600 }, (_, index) => `c${index} int`).join(', ')})`,
    );
    await client.query('create schema large; create table large.value (id int, body text)');
    await client.query("insert into large.value values (1, repeat('x', 1000000000))");
    await client.query(
      'create schema closed; create table closed.away (secret text); create table closed.open (email text)',
    );
    await client.query("insert into closed.open select 'p' || n || '@example.org' from generate_series(1, 60) n");
    await client.query(`do $$ declare s text; begin for s in select nspname from pg_namespace where nspname !~ '^pg_' and nspname <> 'information_schema' loop
      execute format('grant usage on schema %I to ${role}; grant select on all tables in schema %I to ${role}', s, s); end loop; end $$; revoke select on closed.away from ${role}`);
  });
});
afterAll(async () => {
  await place.drop();
  await withClient(urlOf('postgres'), async (client) => {
    await client.query(`drop database if exists ${system} with (force)`);
    await client.query(`drop role if exists ${role}`);
  });
});

describe('odd names and sizes', () => {
  it('are read, sampled, traced and kept as they are; one closed table does not fail the rest', async () => {
    const ended = await run(await makeSource('Odd', address()));
    expect(ended.state).toBe('partly done');
    expect(ended.problems).toEqual([expect.stringContaining('closed.away was not sampled: permission denied')]);
    const names = await place.db.rows<{ name: string }>('select name from asset');
    for (const name of [...ODD, LONGEST, 'view.of "it"', 'e.mail'])
      expect(names.map((row) => row.name)).toContain(name);
    const column = (...path: string[]) =>
      place.db.one<{ id: string }>('select id from asset where key = $1', [keyOf(system, ...path)]);
    const from = await column(ODD[0] as string, ODD[1] as string, ODD[2] as string);
    const to = await column(ODD[0] as string, 'view.of "it"', 'e.mail');
    expect(
      await place.db.one('select kind from lineage_edge where from_id = $1 and to_id = $2', [from?.id, to?.id]),
    ).toEqual({ kind: 'copied' });
    expect(await place.db.rows('select class_key from finding where asset_id = $1', [from?.id])).toEqual([
      { class_key: 'email' },
    ]);
    expect(
      await place.db.one(
        "select count(*)::int as n from asset c join asset t on t.id = c.parent_id where t.name = 'most'",
      ),
    ).toEqual({ n: 1600 });
    expect(
      await place.db.rows(
        "select f.class_key from finding f join asset a on a.id = f.asset_id join asset t on t.id = a.parent_id where t.name = 'open'",
      ),
    ).toEqual([{ class_key: 'email' }]);
  });

  it('are the same after a second scan', async () => {
    const source = await place.db.one<{ id: string }>("select id from source where name = 'Odd'");
    const before = await place.db.rows('select id, key from asset order by id');
    await run(source?.id ?? '');
    const [last] = await place.db.rows<{ counts: object }>(
      "select comparison -> 'counts' as counts from scan_run order by asked_at desc limit 1",
    );
    expect(last?.counts).toEqual({ new: 0, changed: 0, gone: 0, back: 0 });
    expect(await place.db.rows('select id, key from asset order by id')).toEqual(before);
  });

  it('five thousand schemas are read and named', async () => {
    await withClient(urlOf(system), (client) =>
      client.query("do $$ begin for i in 1..5000 loop execute format('create schema many_%s', i); end loop; end $$"),
    );
    const source = await place.db.one<{ id: string }>("select id from source where name = 'Odd'");
    expect((await run(source?.id ?? '', { sample: false })).state).toBe('done');
    expect(
      await place.db.one("select count(*)::int as n from asset where kind = 'schema' and name like 'many%'"),
    ).toEqual({ n: 5000 });
    const reading = await CONNECTORS.postgresql.open({
      name: 'Odd',
      address: address(),
      secret: { username: role, password: 'reading' },
    });
    expect((await reading.outline()).filter((item) => item.kind === 'schema').length).toBeGreaterThan(5000);
    await reading.close();
  });
});

describe('a source that cannot be reached', () => {
  let silent: Server;
  let silentPort: number;
  beforeAll(async () => {
    // Takes every connection and never says a word.
    silent = createServer((socket) => socket.resume());
    await new Promise<void>((resolve) => silent.listen(0, '127.0.0.1', resolve));
    silentPort = (silent.address() as { port: number }).port;
  });
  afterAll(() => new Promise((resolve) => silent.close(resolve)));

  it.each([
    ['a port where nothing listens', () => ({ ...address(), port: 1 }), /Nothing listens/],
    ['a database that is not there', () => ({ ...address(), database: 'nowhere' }), /no database nowhere/],
    ['a host that is not known', () => ({ ...address(), host: 'no-such-host.invalid' }), /not known/],
    ['a network that hangs', () => ({ ...address(), port: silentPort }), /timeout|does not answer/i],
  ])('%s: the run fails with words, and the catalog stays', async (name, where, words) => {
    const before = await place.db.one('select count(*)::int as n from asset');
    const ended = await run(await makeSource(name, where()));
    expect(ended.state).toBe('failed');
    expect(ended.problem?.what).toMatch(words);
    expect(ended.problem?.mend).toBeTruthy();
    expect(ended.log.at(-1)).toContain('The catalog is as it was');
    expect(await place.db.one('select count(*)::int as n from asset')).toEqual(before);
  });

  it('a password that was changed: the run says which statement mends it', async () => {
    await withClient(urlOf('postgres'), (client) => client.query(`alter role ${role} password 'another'`));
    const source = await place.db.one<{ id: string }>("select id from source where name = 'Odd'");
    const ended = await run(source?.id ?? '');
    await withClient(urlOf('postgres'), (client) => client.query(`alter role ${role} password 'reading'`));
    expect(ended.state).toBe('failed');
    expect(ended.problem?.mend).toContain(`ALTER ROLE "${role}" LOGIN PASSWORD`);
  });

  it('rights that are lost while it runs: what can be read is read, and the rest is named', async () => {
    const source = await place.db.one<{ id: string }>("select id from source where name = 'Odd'");
    await withClient(urlOf(system), (client) =>
      client.query(`revoke select on all tables in schema closed from ${role}`),
    );
    const ended = await run(source?.id ?? '');
    expect(ended.state).toBe('partly done');
    expect(ended.problems).toHaveLength(2);
    expect(
      await place.db.rows(
        "select f.class_key from finding f join asset a on a.id = f.asset_id join asset t on t.id = a.parent_id where t.name = 'open'",
      ),
    ).toEqual([{ class_key: 'email' }]);
  });
});

describe('how a run went', () => {
  it('is kept: what took longest, what could not be read and can be read again by itself', async () => {
    const source = await makeSource('Way', address());
    const first = await run(source, {
      scope: { cover: 'chosen', chosen: ['closed', 'large'], include: [], exclude: [] },
    });
    expect(first.state).toBe('partly done');
    const kept = await place.db.one<{
      details: {
        slowest: { path: string; seconds: number; rows: number }[];
        problems: { path: string; what: string }[];
      };
      pace: unknown[];
    }>('select details, pace from scan_run where source_id = $1', [source]);
    // Rights on both were lost in a test before.
    expect(kept?.details.problems).toEqual(
      ['closed.away', 'closed.open'].map((path) => ({ path, what: expect.stringContaining('permission denied') })),
    );
    expect(kept?.details.slowest).toEqual([{ path: 'large.value', seconds: expect.any(Number), rows: 1 }]);
    expect(kept?.pace.length).toBeGreaterThan(1);
  });

  it('stays a small row however long it runs', async () => {
    const [row] = await place.db.rows<{ n: number; first: number; last: number }>(
      `with recursive way(n, pace) as (select 0, '[]'::jsonb union all select n + 1, paced(pace, now() - make_interval(secs => n), jsonb_build_object('objects', n, 'sampled', n)) from way where n < 1000)
       select jsonb_array_length(pace) as n, (pace -> 0 ->> 1)::int as first, (pace -> -1 ->> 1)::int as last from way where n = 1000`,
    );
    expect(row?.n).toBeLessThanOrEqual(200);
    expect(row?.last).toBe(999);
    expect(row?.first).toBeLessThan(30);
  });
});
