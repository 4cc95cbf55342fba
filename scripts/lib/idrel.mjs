import { createHash, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { openCluster } from './cluster.mjs';
import { keep, ROOT, waitFor } from './house.mjs';
import { say } from './say.mjs';
import { freePort, runBeside } from './system.mjs';

/**
 * Starts everything for one place on disk: database, schema, demo (once), server and worker.
 * A program that falls is started again; one that falls again and again is given up, and `gaveUp(label, recent)` is told.
 * @param home folder of the data; @param ports wished ports; both are other ones for tests, which may run beside the demo; @param passing the data is thrown away afterwards
 */
export async function startIdrel({
  home,
  databasePort,
  webPort,
  quiet = false,
  passing = false,
  gaveUp = () => undefined,
}) {
  const tell = quiet ? () => undefined : say;
  mkdirSync(home, { recursive: true });
  const own = process.env.DATABASE_URL;
  const demo = (process.env.IDREL_DEMO ?? '1') === '1';
  // The demo's own systems need databases, roles and an extension: with a database of one's own they stay in the private cluster all the same.
  const cluster = own && !demo ? undefined : await openCluster(home, databasePort, { passing });
  const databaseUrl = own ?? cluster.url('idrel');
  if (!own) await ensureDatabase(cluster);
  const port = await freePort(webPort);
  const address = `http://127.0.0.1:${port}`;
  const demoFolder = join(home, 'demo');
  const standInsPort = demo ? await freePort(webPort + 10) : undefined;
  const mailPort = demo ? await freePort(webPort + 20) : undefined;
  const standIns = `http://127.0.0.1:${standInsPort}`;
  const env = {
    DATABASE_URL: databaseUrl,
    IDREL_PORT: String(port),
    IDREL_DEMO: demo ? '1' : '0',
    ...(cluster
      ? { IDREL_WORK_DATABASE_URL: process.env.IDREL_WORK_DATABASE_URL ?? (await ensureWork(cluster, home)) }
      : {}),
    ...(demo ? { IDREL_DEMO_SOURCES_URL: cluster.url('postgres') } : {}),
    ...(demo
      ? {
          IDREL_STANDINS_ADDRESS: standIns,
          IDREL_STANDINS_PORT: String(standInsPort),
          IDREL_STANDINS_FOLDER: join(demoFolder, 'services'),
          IDREL_STANDINS_MAIL_PORT: String(mailPort),
          IDREL_DEMO_SERVER: address,
          ...signInOfDemo(standIns, mailPort),
          IDREL_CLIENTS_PORT: process.env.IDREL_CLIENTS_PORT ?? String(await freePort(webPort + 5)),
        }
      : {}),
    IDREL_KEY_FILE: process.env.IDREL_KEY_FILE ?? join(home, 'key'),
    IDREL_DEMO_FOLDER: demoFolder,
    IDREL_ADDRESS: process.env.IDREL_ADDRESS ?? address,
    // The demo's own folders and services, and nothing else of this machine; an operator names more.
    IDREL_FOLDER_ROOTS: process.env.IDREL_FOLDER_ROOTS ?? (demo ? demoFolder : ''),
    IDREL_SOURCE_NETWORKS: process.env.IDREL_SOURCE_NETWORKS ?? (demo ? '127.0.0.0/8, ::1' : ''),
    IDREL_CALL_NETWORKS: process.env.IDREL_CALL_NETWORKS ?? (demo ? '127.0.0.0/8, ::1' : ''),
    IDREL_LOG_LEVEL: process.env.IDREL_LOG_LEVEL ?? 'warn',
  };
  const step = (script, ...args) =>
    runBeside(process.execPath, [join(ROOT, script), ...args], { cwd: ROOT, env: { ...process.env, ...env } });
  await step('server/dist/migrate.js');
  const seededFile = join(home, own ? `seeded-${nameOf(own)}` : 'seeded');
  // A demo that was moved or copied goes on where it is now.
  const place = `${cluster?.port} ${standInsPort} ${demoFolder}`;
  const wanted = demo && !existsSync(seededFile);
  if (wanted) {
    tell('Making the demo of Tarnholm Ferries …');
    await step('demo/dist/main.js', 'make');
  } else if (demo && readFileSync(seededFile, 'utf8') !== place) {
    await step('demo/dist/main.js', 'follow');
    writeFileSync(seededFile, place);
  }
  const kept = [
    keep(home, 'server', 'server/dist/main.js', env, gaveUp),
    keep(home, 'worker', 'server/dist/worker.js', env, gaveUp),
    ...(demo ? [keep(home, 'stand-ins', 'standins/dist/main.js', env, gaveUp)] : []),
  ];
  const stop = async () => {
    await Promise.all(kept.map((program) => program.stop()));
    cluster?.stop();
  };
  try {
    await waitFor(address);
    if (wanted) {
      const seeded = await step('demo/dist/main.js', 'seed');
      tell(seeded.stdout.trim());
      writeFileSync(seededFile, place);
    }
  } catch (error) {
    const logs = kept.map((program) => `--- ${program.label}\n${program.recent()}`).join('\n');
    await stop();
    throw new Error(`${error.message}\n${logs}`);
  }
  return { address, databaseUrl, demoFolder, ...(demo ? { demoPort: cluster.port } : {}), env, kept, cluster, stop };
}

/** What the stand-ins offer: ways to sign in, mail, pages to look at; an operator's own settings come first. */
function signInOfDemo(standIns, mailPort) {
  const wished = {
    IDREL_MAIL_URL: `smtp://127.0.0.1:${mailPort}`,
    IDREL_MAIL_FROM: 'Idrel <idrel@tarnholm.example>',
    IDREL_DEMO_MAILBOX: `${standIns}/mail`,
    IDREL_PREVIEW_HOSTS: new URL(standIns).host,
    IDREL_CHAT_URL: `${standIns}/chat/in`,
    // Made anew at each start: nothing but the stand-in has to know it.
    IDREL_CHAT_ANSWERS: '1',
    IDREL_CHAT_SECRET: `whsec_${randomBytes(32).toString('base64')}`,
    IDREL_TRACKER_URL: `${standIns}/tracker/in`,
    IDREL_TRACKER_SECRET: randomBytes(32).toString('hex'),
    ...(process.env.IDREL_OIDC_ISSUER
      ? {}
      : {
          IDREL_OIDC_ISSUER: `${standIns}/identity`,
          IDREL_OIDC_CLIENT_ID: 'idrel',
          IDREL_OIDC_CLIENT_SECRET: 'only-for-the-demo',
          IDREL_OIDC_NAME: 'Harbour Pass',
          IDREL_OIDC_SCOPES: 'openid profile email groups',
        }),
  };
  return Object.fromEntries(Object.entries(wished).filter(([name]) => !process.env[name]));
}

/** Tells databases apart in the name of a file, without their passwords. */
function nameOf(url) {
  const { host, pathname } = new URL(url);
  return createHash('sha256').update(`${host}${pathname}`).digest('hex').slice(0, 12);
}

async function ensureDatabase(cluster) {
  const { default: pg } = await import('pg');
  const client = new pg.Client(cluster.url('postgres'));
  await client.connect();
  const { rowCount } = await client.query("select 1 from pg_database where datname = 'idrel'");
  if (!rowCount) await client.query('create database idrel');
  await client.end();
}

/** A database with nothing in it, and a role that may do nothing but make temporary tables there: statements over files run in it. */
async function ensureWork(cluster, home) {
  const { default: pg } = await import('pg');
  const file = join(home, 'work-password');
  if (!existsSync(file)) writeFileSync(file, randomBytes(18).toString('base64url'), { mode: 0o600 });
  const password = readFileSync(file, 'utf8').trim();
  const client = new pg.Client(cluster.url('postgres'));
  await client.connect();
  try {
    const known = async (sql) => (await client.query(sql)).rowCount > 0;
    const role = (await known("select 1 from pg_roles where rolname = 'idrel_work'")) ? 'alter' : 'create';
    await client.query(
      `${role} role idrel_work login nosuperuser nocreatedb nocreaterole noinherit password '${password}'`,
    );
    if (!(await known("select 1 from pg_database where datname = 'idrel_work'")))
      await client.query('create database idrel_work');
    await client.query('revoke all on database idrel_work from public');
    await client.query('grant connect, temporary on database idrel_work to idrel_work');
  } finally {
    await client.end();
  }
  const url = new URL(cluster.url('idrel_work'));
  url.username = 'idrel_work';
  url.password = password;
  return url.href;
}

export const forget = (home) => rmSync(home, { recursive: true, force: true });
