import { type ChildProcess, spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { keyFor } from '../src/platform/secrets.ts';
import { executeRun, sweep } from '../src/scanning/index.ts';
import { freshDatabase, furnish, postgresSource, testConfig, urlOf, withClient } from './place.ts';

const system = `killed_${process.pid}`;
const master = randomBytes(32);
const key = keyFor(master, 'credentials');
const config = testConfig(key);
let place: Awaited<ReturnType<typeof freshDatabase>>;
let sourceId: string;

beforeAll(async () => {
  place = await freshDatabase();
  const { domainId } = await furnish(place.db);
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) =>
    client.query(
      "create schema s; do $$ begin for i in 1..60 loop execute format('create table s.t%s as select n as id, ''p'' || n || ''@example.org'' as email from generate_series(1, 300) n', i); end loop; end $$",
    ),
  );
  sourceId = await postgresSource(place.db, { name: 'Killed', domainId, database: system, key });
});
afterAll(async () => {
  await place.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
});

const newRun = async () => {
  const [run] = await place.db.rows<{ id: string }>('insert into scan_run (source_id) values ($1) returning id', [
    sourceId,
  ]);
  await place.db.rows(
    "select graphile_worker.add_job('scan', json_build_object('runId', $1::text), max_attempts => 1)",
    [run?.id],
  );
  return run?.id ?? '';
};
const stateOf = async (id: string) =>
  (await place.db.rows<{ state: string }>('select state from scan_run where id = $1', [id]))[0]?.state ?? '';
/** The whole catalog as one text: two catalogs are equal when their texts are. */
const catalog = async () =>
  JSON.stringify(
    await place.db.rows(
      'select a.key, a.kind, a.native, a.level, a.gone_at is null as here, (select json_agg(f.class_key) from finding f where f.asset_id = a.id) as classes from asset a order by a.key',
    ),
  );
const until = async (condition: () => Promise<boolean>) => {
  while (!(await condition())) await new Promise((resolve) => setTimeout(resolve, 25));
};
const startWorker = (): ChildProcess =>
  spawn(process.execPath, ['server/dist/worker.js'], {
    env: {
      ...process.env,
      DATABASE_URL: place.url,
      IDREL_KEY: master.toString('base64'),
      IDREL_SOURCE_NETWORKS: '127.0.0.0/8, ::1',
      IDREL_LOG_LEVEL: 'silent',
    },
    stdio: 'ignore',
  });

describe('a worker that is killed in the middle of a scan', () => {
  it('leaves the catalog as it was, at whatever stage, and the source can be scanned again', async () => {
    let cut = 0;
    for (const stage of ['structure', 'sampling', 'recognition', 'recognition']) {
      const before = await catalog();
      const id = await newRun();
      const worker = startWorker();
      await until(
        async () =>
          (await stateOf(id)) === stage ||
          !['waiting', 'structure', 'sampling', 'recognition'].includes(await stateOf(id)),
      );
      worker.kill('SIGKILL');
      await new Promise((resolve) => worker.once('exit', resolve));
      const state = await stateOf(id);
      // A kill can come just after the end: then the run is done, and the catalog is the one after it, as a whole.
      if (state !== 'done') {
        cut += 1;
        expect(await catalog()).toBe(before);
        expect(await sweep(place.db, '0 seconds')).toBe(1);
        expect(await stateOf(id)).toBe('failed');
      }
    }
    expect(cut).toBeGreaterThan(0);
    const again = await newRun();
    await executeRun(place.db, config, again);
    expect(await stateOf(again)).toBe('done');
    expect((await place.db.rows("select count(*)::int as n from finding where class_key = 'email'"))[0]).toEqual({
      n: 60,
    });
  });

  it('ends a run whose source breaks off, and keeps the catalog', async () => {
    const before = await catalog();
    const id = await newRun();
    const running = executeRun(place.db, config, id);
    await until(async () => (await stateOf(id)) === 'recognition');
    await withClient(urlOf('postgres'), (client) =>
      client.query('select pg_terminate_backend(pid) from pg_stat_activity where datname = $1', [system]),
    );
    await running;
    expect(['failed', 'done']).toContain(await stateOf(id));
    expect(await catalog()).toBe(before);
  });

  it('cancels within a moment when asked, and keeps the catalog', async () => {
    const before = await catalog();
    const id = await newRun();
    const running = executeRun(place.db, config, id);
    await place.db.run('update scan_run set cancel_asked = true where id = $1', [id]);
    await running;
    expect(await stateOf(id)).toBe('cancelled');
    expect(await catalog()).toBe(before);
  });

  it('lets only one run of a source work at a time', async () => {
    const id = await newRun();
    await expect(newRun()).rejects.toThrow(/unique|Validation/i);
    await executeRun(place.db, config, id);
  });
});
