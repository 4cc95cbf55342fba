import { type ChildProcess, spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { runMigrations } from 'graphile-worker';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
// @ts-expect-error a script without types
import { clusterFolders, openCluster } from '../../scripts/lib/cluster.mjs';
import { type Database, openDatabase } from '../src/platform/database.ts';
import { migrate } from '../src/platform/migrations.ts';
import { encrypt, keyFor } from '../src/platform/secrets.ts';
import { executeRun, sweep } from '../src/scanning/index.ts';
import { furnish, testConfig } from './place.ts';

// A cluster of its own: the whole database server is killed here too, which the other tests must not feel.
interface Cluster {
  url(database: string): string;
  destroy(): void;
  port: number;
}
const home = mkdtempSync(join(tmpdir(), 'idrel-kills-'));
const PORT = 55791;
const KILLS = 50;
const master = randomBytes(32);
const key = keyFor(master, 'credentials');
let cluster: Cluster;
let db: Database;
let sourceId: string;
const seed = { value: 20_260_531 };
/** Random numbers that are the same in each run of the tests; the moments they lead to are not. */
const random = () => {
  seed.value = (seed.value * 1_103_515_245 + 12_345) % 2 ** 31;
  return seed.value / 2 ** 31;
};

const inSource = async (sql: string) => {
  const client = new pg.Client(cluster.url('killed_source'));
  await client.connect();
  await client.query(sql).finally(() => client.end());
};
const open = () => {
  db = openDatabase(cluster.url('catalog'), { max: 3 });
};

beforeAll(async () => {
  cluster = await openCluster(home, PORT);
  const admin = new pg.Client(cluster.url('postgres'));
  await admin.connect();
  await admin.query('create database catalog');
  await admin.query('create database killed_source');
  await admin.end();
  await runMigrations({ connectionString: cluster.url('catalog') });
  open();
  await migrate(db.sequelize);
  await inSource(
    "create schema s; do $$ begin for i in 1..40 loop execute format('create table s.t%s as select n as id, ''p'' || n || ''@example.org'' as email from generate_series(1, 200) n', i); end loop; end $$",
  );
  const { domainId } = await furnish(db);
  const url = new URL(cluster.url('killed_source'));
  const one = async (sql: string, bind: unknown[]) =>
    ((await db.rows<{ id: string }>(sql, bind))[0] as { id: string }).id;
  const credential = await one("insert into credential (name, username, secret) values ('k', $1, $2) returning id", [
    url.username,
    encrypt(key, decodeURIComponent(url.password)),
  ]);
  sourceId = await one(
    "insert into source (name, kind, address, domain_id, credential_id) values ('Killed', 'postgresql', $1, $2, $3) returning id",
    [JSON.stringify({ host: '127.0.0.1', port: Number(url.port), database: 'killed_source' }), domainId, credential],
  );
}, 120_000);
afterAll(async () => {
  await db?.close();
  cluster?.destroy();
  for (const folder of [home, ...clusterFolders(home)]) rmSync(folder, { recursive: true, force: true });
});

const newRun = async () => {
  const [run] = await db.rows<{ id: string }>(
    'insert into scan_run (source_id, options) values ($1, \'{"rows": 100}\') returning id',
    [sourceId],
  );
  return run?.id ?? '';
};
const stateOf = async (id: string) =>
  (await db.one<{ state: string }>('select state from scan_run where id = $1', [id]))?.state ?? '';
const catalog = async () =>
  JSON.stringify(
    await db.rows(
      `select a.key, a.kind, a.native, a.level, a.gone_at is null as here, (select json_agg(f.class_key) from finding f where f.asset_id = a.id) as classes, (select p.facts -> 'distinct' from column_profile p where p.asset_id = a.id) as distinct
       from asset a order by a.key`,
    ),
  );
const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
const ended = (child: ChildProcess) =>
  child.exitCode !== null || child.signalCode !== null
    ? Promise.resolve()
    : new Promise<void>((resolve) => child.once('exit', () => resolve()));
const startWorker = () =>
  spawn(process.execPath, ['server/dist/worker.js'], {
    env: {
      ...process.env,
      DATABASE_URL: cluster.url('catalog'),
      IDREL_KEY: master.toString('base64'),
      IDREL_SOURCE_NETWORKS: '127.0.0.0/8, ::1',
      IDREL_LOG_LEVEL: 'silent',
    },
    stdio: 'ignore',
  });

/** Kills the database server as a power cut would, and starts it again as soon as what it left lets it. */
async function killDatabase(): Promise<void> {
  const [folder] = clusterFolders(home).filter((path: string) => {
    try {
      return readFileSync(join(path, 'data/postmaster.pid'), 'utf8').length > 0;
    } catch {
      return false;
    }
  });
  process.kill(Number(readFileSync(join(folder, 'data/postmaster.pid'), 'utf8').split('\n')[0]), 'SIGKILL');
  await db.close().catch(() => undefined);
  for (let tries = 0; ; tries += 1) {
    await pause(300);
    try {
      cluster = await openCluster(home, PORT);
      open();
      await db.one('select 1 as yes');
      return;
    } catch (error) {
      if (tries > 60) throw error;
    }
  }
}

describe('fifty kills at random moments', () => {
  it('leave the catalog as it was before the run or as it is after it, never between', async () => {
    const first = await newRun();
    await executeRun(db, testConfig(key), first);
    expect(await stateOf(first)).toBe('done');
    const told = { before: 0, after: 0, database: 0, worker: 0 };
    for (let round = 1; round <= KILLS; round += 1) {
      // What the next run must find is always something else than what the catalog holds.
      await inSource(
        `alter table s.t${1 + (round % 40)} add column added_${round} int; update s.t1 set email = 'round ${round} ' || id || '@example.org'`,
      );
      const before = await catalog();
      const id = await newRun();
      await db.rows("select graphile_worker.add_job('scan', json_build_object('runId', $1::text), max_attempts => 1)", [
        id,
      ]);
      const worker = startWorker();
      while ((await stateOf(id)) === 'waiting') await pause(5);
      await pause(random() * 700);
      const whole = round % 5 === 0;
      if (whole) await killDatabase();
      worker.kill('SIGKILL');
      await ended(worker);
      told[whole ? 'database' : 'worker'] += 1;
      const state = await stateOf(id);
      const now = await catalog();
      if (state === 'done') {
        told.after += 1;
        expect(now).not.toBe(before);
        expect(now).toContain(`added_${round}`);
      } else {
        told.before += 1;
        expect([round, now === before]).toEqual([round, true]);
        await sweep(db, '0 seconds');
        expect(['failed', 'cancelled']).toContain(await stateOf(id));
      }
    }
    expect([told.database, told.worker, told.before + told.after]).toEqual([10, 40, KILLS]);
    // Unless most kills met a run at work, nothing was tried.
    expect(told.before).toBeGreaterThan(KILLS / 4);
    const last = await newRun();
    await executeRun(db, testConfig(key), last);
    expect(await stateOf(last)).toBe('done');
    expect(await catalog()).toContain(`added_${KILLS}`);
  });
});
