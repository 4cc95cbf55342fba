import { spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { readdirSync } from 'node:fs';
import { runMigrations } from 'graphile-worker';
import pg from 'pg';
import { openDatabase } from '../server/dist/platform/database.js';
import { migrate } from '../server/dist/platform/migrations.js';
import { encrypt } from '../server/dist/platform/secrets.js';
import { afterRun, executeRun } from '../server/dist/scanning/index.js';
import { inTurn, tell } from './lib.mjs';

const COLUMNS = 20;

/** First scan of 2,000 tables with 40,000 columns, and of 10,000 with 200,000, without sampling, against `pg_dump --schema-only` of the same database; and a scan of only what has changed since, which is nothing, against the first. */
export async function run(adminUrl) {
  const small = await scanOf(adminUrl, 2000, 7, 'at most 1.5');
  const large = await scanOf(adminUrl, 10_000, 7, 'at most 1.2');
  return [small, large].join('\n');
}

async function scanOf(adminUrl, TABLES, rounds, goal) {
  const at = (database) => {
    const url = new URL(adminUrl);
    url.pathname = `/${database}`;
    return url.href;
  };
  const admin = new pg.Client(adminUrl);
  await admin.connect();
  await admin.query('drop database if exists bench_wide with (force)');
  await admin.query('drop database if exists bench_idrel with (force)');
  await admin.query('create database bench_wide');
  await admin.query('create database bench_idrel');
  const wide = new pg.Client(at('bench_wide'));
  await wide.connect();
  const list = Array.from({ length: COLUMNS }, (_, index) =>
    index === 0 ? 'id int primary key' : `field_${index} ${['text', 'int', 'date', 'numeric(9,2)'][index % 4]}`,
  ).join(', ');
  for (let schema = 0; schema < 10; schema += 1) {
    await wide.query(`create schema area_${schema}`);
    for (let table = 0; table < TABLES / 10; table += 1)
      await wide.query(`create table area_${schema}.thing_${table} (${list})`);
  }
  await wide.end();
  const db = openDatabase(at('bench_idrel'));
  await runMigrations({ connectionString: at('bench_idrel') });
  await migrate(db.sequelize);
  const url = new URL(adminUrl);
  const key = randomBytes(32);
  const one = async (sql, bind) => (await db.rows(sql, bind))[0].id;
  const domain = await one("insert into domain (name) values ('d') returning id");
  const credential = await one('insert into credential (name, username, secret) values ($1, $2, $3) returning id', [
    'c',
    url.username,
    encrypt(key, decodeURIComponent(url.password)),
  ]);
  const source = await one(
    'insert into source (name, kind, address, domain_id, credential_id) values ($1, $2, $3, $4, $5) returning id',
    [
      's',
      'postgresql',
      JSON.stringify({ host: url.hostname, port: Number(url.port), database: 'bench_wide' }),
      domain,
      credential,
    ],
  );
  const newest = readdirSync('/usr/lib/postgresql').sort((a, b) => Number(b) - Number(a))[0];
  const timedRun = async (onlyChanged = false) => {
    const id = await one('insert into scan_run (source_id, options) values ($1, $2) returning id', [
      source,
      JSON.stringify({ sample: false, onlyChanged }),
    ]);
    const started = performance.now();
    await executeRun(db, { key, sourceNetworks: ['127.0.0.0/8', '::1'] }, id);
    const took = performance.now() - started;
    await afterRun(db, id);
    const [{ state, n }] = await db.rows(
      'select state, (select count(*)::int from asset) as n from scan_run where id = $1',
      [id],
    );
    if (state !== 'done' || n < TABLES * (COLUMNS + 1)) throw new Error(`the scan ended as ${state} with ${n} assets`);
    return took;
  };
  const [dump, scan, again] = await inTurn(rounds, [
    () => {
      const result = spawnSync(
        `/usr/lib/postgresql/${newest}/bin/pg_dump`,
        ['--schema-only', '-f', '/dev/null', at('bench_wide')],
        { encoding: 'utf8' },
      );
      if (result.status !== 0) throw new Error(result.stderr);
    },
    async () => {
      await db.run('truncate asset, name_words cascade');
      return timedRun();
    },
    async () => {
      await timedRun(true); // the first of these leaves the marks
      return timedRun(true);
    },
  ]);
  // Memory of a process that does nothing but one such scan, as the system counts it.
  await db.run('truncate asset, name_words cascade');
  const alone = spawnSync(
    process.execPath,
    [new URL('scanAlone.mjs', import.meta.url).pathname, at('bench_idrel'), key.toString('base64'), source],
    { encoding: 'utf8' },
  );
  if (alone.status !== 0) throw new Error(alone.stderr);
  await db.close();
  await admin.query('drop database bench_wide with (force)');
  await admin.query('drop database bench_idrel with (force)');
  await admin.end();
  return [
    tell(
      `First scan of ${TABLES} tables with ${TABLES * COLUMNS} columns, against pg_dump --schema-only`,
      scan,
      dump,
      goal,
    ),
    `| Memory of a process that scans ${TABLES} tables for the first time (resident, at most) | ${alone.stdout.trim()} MB | – | – | under 500 MB |`,
    tell('Scan of the same again, only what has changed (nothing), against the first', again, scan, 'at most 0.25'),
  ].join('\n');
}
