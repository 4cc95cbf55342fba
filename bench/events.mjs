import { fork, spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { Agent, request } from 'node:http';
import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { runMigrations } from 'graphile-worker';
import pg from 'pg';
import { Webhook } from 'standardwebhooks';
import { makeWebhook } from '../server/dist/exchange/webhooks.js';
import { recordEach } from '../server/dist/journal/index.js';
import { loadWho } from '../server/dist/people/index.js';
import { openDatabase } from '../server/dist/platform/database.js';
import { migrate } from '../server/dist/platform/migrations.js';
import { keyFor } from '../server/dist/platform/secrets.js';
import { median } from './lib.mjs';

const [SECONDS, PER_SECOND, THINGS] = [60, 1000, 5000];
const TOTAL = SECONDS * PER_SECOND;
/** When the worker is killed, in seconds. */
const KILLS = [20, 40];
const LISTENER = fileURLToPath(new URL('./listener.mjs', import.meta.url));

/**
 * A thousand events a second for a minute, each written in a transaction with ninety-nine others, sent by a worker to one address that takes them, while the worker is
 * killed (SIGKILL) twice and begun again at once; then as many that wait, sent as fast as it goes, against sending the same messages, signed, from a bare loop.
 */
export async function run(adminUrl) {
  const url = new URL(adminUrl);
  url.pathname = '/bench_events';
  const admin = new pg.Client(adminUrl);
  await admin.connect();
  await admin.query('drop database if exists bench_events with (force)');
  await admin.query('create database bench_events');
  await runMigrations({ connectionString: url.href });
  const master = randomBytes(32);
  const db = openDatabase(url.href);
  await migrate(db.sequelize);
  const who = await furnish(db);
  const listener = fork(LISTENER, { stdio: ['ignore', 'inherit', 'inherit', 'ipc'] });
  const heard = (message) =>
    new Promise((resolve) => {
      listener.once('message', resolve);
      listener.send(message);
    });
  const { port } = await new Promise((resolve) => listener.once('message', resolve));
  const address = `http://127.0.0.1:${port}/`;
  const config = { key: keyFor(master, 'credentials') };
  const hook = (name) =>
    makeWebhook(db, config, who, { name, address, kinds: ['table'], domainId: null, filter: null, enabled: true });
  const lines = [];
  try {
    await hook('while it is written');
    const env = {
      ...process.env,
      DATABASE_URL: url.href,
      IDREL_KEY: master.toString('base64'),
      IDREL_CALL_NETWORKS: '127.0.0.0/8',
      IDREL_LOG_LEVEL: 'error',
    };
    let ended = false;
    let worker;
    let killed = 0;
    /** Ends the worker for good. */
    const end = async () => {
      ended = true;
      const gone = new Promise((resolve) => worker.once('exit', resolve));
      worker.kill('SIGKILL');
      await gone;
    };
    const keep = () => {
      ended = false;
      worker = spawn(process.execPath, ['server/dist/worker.js'], { env, stdio: ['ignore', 'ignore', 'inherit'] });
      worker.once('exit', () => {
        if (!ended) keep();
      });
    };
    keep();
    await sleep(5000);
    const started = performance.now();
    let late = 0;
    for (let nth = 0; nth < SECONDS * 10; nth += 1) {
      const due = started + nth * 100;
      if (killed < KILLS.length && performance.now() - started > KILLS[killed] * 1000) {
        killed += 1;
        worker.kill('SIGKILL');
      }
      const wait = due - performance.now();
      if (wait > 0) await sleep(wait);
      await write(db, who, nth * (PER_SECOND / 10), PER_SECOND / 10);
      late = Math.max(late, performance.now() - due - 100);
    }
    const written = performance.now() - started;
    const all = await until(heard, TOTAL);
    const caught = performance.now() - started - written;
    lines.push(
      tellOf(
        `${TOTAL.toLocaleString('en')} events written in ${(written / 1000).toFixed(0)} s (${PER_SECOND.toLocaleString('en')} a second), sent to one address, the worker killed ${killed} times`,
        `${all.ids.toLocaleString('en')} taken, ${all.twice.toLocaleString('en')} of them twice; ${all.late.p50} ms after they were written (95 of 100 within ${all.late.p95} ms, all within ${all.late.most} ms); the last ${(caught / 1000).toFixed(1)} s after the last was written`,
        '',
        '',
        'none lost, 1,000 a second',
      ),
    );
    await end();
    await db.run('delete from webhook');
    // As many that wait.
    const times = [[], []];
    const body = JSON.stringify(await sample(db));
    for (let round = 0; round < 3; round += 1) {
      await heard('forget');
      await db.run('delete from webhook');
      const { webhook } = await hook('what waits');
      await db.run('update webhook_place set after = 0 where webhook_id = $1', [webhook.id]);
      keep();
      await until(heard, 1);
      let begun = performance.now();
      await until(heard, TOTAL);
      times[0].push(performance.now() - begun);
      await end();
      await heard('forget');
      begun = performance.now();
      await bare(address, body, TOTAL);
      times[1].push(performance.now() - begun);
    }
    const [ours, plain] = times.map(median);
    const each = (list) =>
      `${(median(list) / 1000).toFixed(1)} s (${list.map((ms) => (ms / 1000).toFixed(1)).join(', ')}), ${Math.round(TOTAL / (median(list) / 1000)).toLocaleString('en')} a second`;
    lines.push(
      tellOf(
        `${TOTAL.toLocaleString('en')} events that waited, sent to one address, against the same messages signed and sent by a bare loop`,
        each(times[0]),
        each(times[1]),
        (ours / plain).toFixed(2),
        '1,000 a second',
      ),
    );
  } finally {
    listener.kill();
    await db.close();
    await admin.query('drop database if exists bench_events with (force)');
    await admin.end();
  }
  return lines.join('\n');
}

function tellOf(...cells) {
  const line = `| ${cells.join(' | ')} |`;
  process.stdout.write(`${line}\n`);
  return line;
}

/** Waits until so many different messages came. */
async function until(heard, count) {
  for (;;) {
    const all = await heard('how many');
    if (all.ids >= count) return all;
    await sleep(20);
  }
}

async function furnish(db) {
  const one = async (sql, bind = []) => (await db.one(sql, bind)).id;
  const domain = await one("insert into domain (name) values ('Travel') returning id");
  const person = await one("insert into person (name, email) values ('Ann', 'ann@example.org') returning id");
  await db.run("insert into role_grant (person_id, role) values ($1, 'administrator')", [person]);
  const source = await one(
    "insert into source (name, kind, address, domain_id) values ('S', 'postgresql', '{}', $1) returning id",
    [domain],
  );
  await db.run(
    `insert into asset (source_id, domain_id, kind, name, key, depth)
     select $1, $2, 'table', 't' || n, 't' || n, 0 from generate_series(1, ${THINGS}) n`,
    [source, domain],
  );
  return loadWho(db, person);
}

let tables;
/** Writes so many changes, each of another table, in one transaction. */
async function write(db, who, from, many) {
  tables ??= await db.rows('select id, name, domain_id as "domainId" from asset order by key');
  await db.transaction((tx) =>
    recordEach(
      tx,
      who,
      Array.from({ length: many }, (_, nth) => {
        const { id, name, domainId } = tables[(from + nth) % tables.length];
        return {
          action: 'edited',
          subject: { kind: 'table', id, name, domainId },
          before: { description: `What it was, in words of a usual length, before change ${from + nth}.` },
          after: { description: `What it is, in words of a usual length, after change ${from + nth}.` },
        };
      }),
    ),
  );
}

const sample = async (db) => {
  const row = await db.one(
    'select j.*, e.seq from event e join journal j on j.id = e.journal_id order by e.seq desc limit 1',
  );
  return { specversion: '1.0', id: row.id, source: '/', type: 'idrel.table.edited', time: row.at, data: row };
};

/** Signs and sends so many messages, sixteen beside each other. */
async function bare(address, body, many) {
  const agent = new Agent({ keepAlive: true, maxSockets: 16 });
  const signer = new Webhook(`whsec_${randomBytes(32).toString('base64')}`);
  let left = many;
  const sender = async () => {
    while (left > 0) {
      left -= 1;
      const id = String(left);
      const now = new Date();
      await new Promise((resolve, reject) => {
        const call = request(
          address,
          {
            method: 'POST',
            agent,
            headers: {
              'content-type': 'application/cloudevents+json',
              'content-length': Buffer.byteLength(body),
              'webhook-id': id,
              'webhook-timestamp': String(Math.floor(now / 1000)),
              'webhook-signature': signer.sign(id, now, body),
            },
          },
          (answer) => {
            answer.resume();
            answer.on('end', resolve);
          },
        );
        call.on('error', reject);
        call.end(body);
      });
    }
  };
  await Promise.all(Array.from({ length: 16 }, sender));
  agent.destroy();
}
