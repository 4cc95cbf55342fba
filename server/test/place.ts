import { createHash, randomBytes } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { PolicyBody } from '@idrel/contract/access';
import { runMigrations } from 'graphile-worker';
import pg from 'pg';
import { POLICY, type PolicyRow } from '../src/access/models.ts';
import { writeLists } from '../src/access/policyRows.ts';
import type { FinderClient } from '../src/catalog/index.ts';
import { KeptFinder } from '../src/catalog/keptFinder.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import type { Config } from '../src/platform/config.ts';
import { type Database, openDatabase } from '../src/platform/database.ts';
import { migrate } from '../src/platform/migrations.ts';
import { modelIn } from '../src/platform/models.ts';
import type { ApiProblem } from '../src/platform/problems.ts';
import { encrypt } from '../src/platform/secrets.ts';

const ADMIN = process.env.IDREL_TEST_DATABASE_URL ?? '';

/** A configuration for what runs within a test: its own keys; sources on this machine and below its folder for what is passing. */
export const testConfig = (key: Buffer = randomBytes(32)): Config =>
  ({
    key,
    digestKey: randomBytes(32),
    folderRoots: [tmpdir()],
    sourceNetworks: ['127.0.0.0/8', '::1'],
    callNetworks: ['127.0.0.0/8', '::1'],
    previewHosts: [],
    queryBytes: 1 << 29,
    querySeconds: 600,
  }) as unknown as Config;

/** The address of another database of the test cluster. */
export function urlOf(database: string): string {
  const url = new URL(ADMIN);
  url.pathname = `/${database}`;
  return url.href;
}

export async function withClient<T>(url: string, work: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = new pg.Client(url);
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

/** What a database is made of: when a migration is another one, so is the template. */
function schemaDigest(): string {
  const folder = fileURLToPath(new URL('../migrations/', import.meta.url));
  const digest = createHash('sha256');
  for (const file of readdirSync(folder).sort()) digest.update(file).update(readFileSync(join(folder, file)));
  return digest.digest('hex').slice(0, 16);
}

/** A database with Idrel's schema that others are copied from; it is made once, by whichever test comes first. */
async function template(): Promise<string> {
  const name = `test_template_${schemaDigest()}`;
  await withClient(ADMIN, async (client) => {
    await client.query("select pg_advisory_lock(hashtext('idrel test template'))");
    const { rowCount } = await client.query('select 1 from pg_database where datname = $1', [name]);
    if (rowCount) return;
    const making = `${name}_made`;
    await client.query(`drop database if exists ${making} with (force)`);
    await client.query(`create database ${making}`);
    const db = openDatabase(urlOf(making));
    await runMigrations({ connectionString: urlOf(making) });
    await migrate(db.sequelize);
    await db.close();
    // Under its name it is whole.
    await client.query(`alter database ${making} rename to ${name}`);
  });
  return name;
}

/** A fresh database with Idrel's schema, and the way to remove it. */
export async function freshDatabase(): Promise<{ db: Database; url: string; drop: () => Promise<void> }> {
  const name = `test_${randomBytes(6).toString('hex')}`;
  const from = await template();
  await withClient(ADMIN, (client) => client.query(`create database ${name} template ${from}`));
  const url = urlOf(name);
  const db = openDatabase(url);
  return {
    db,
    url,
    async drop() {
      await db.close();
      await withClient(ADMIN, (client) => client.query(`drop database if exists ${name} with (force)`));
    },
  };
}

/** What finds assets in a database, without a thread of its own. */
export function finderHere(db: Database): FinderClient {
  const kept = new KeptFinder(db);
  return {
    find: async (...given) => (await kept.upToDate()).find(...given),
    ids: async (...given) => (await kept.upToDate()).ids(...given),
    count: async (...given) => (await kept.upToDate()).count(...given),
    why: async (...given) => (await kept.upToDate()).why(...given),
    branches: async (...given) => (await kept.upToDate()).branches(...given),
    bySource: async () => (await kept.upToDate()).bySource(),
    waiting: async (...given) => (await kept.upToDate()).waiting(...given),
    measure: async (...given) => (await kept.upToDate()).measure(...given),
    close: async () => undefined,
  };
}

/** A domain, a person who may do everything, and a source without a system behind it. */
export async function furnish(db: Database): Promise<{ personId: string; domainId: string; sourceId: string }> {
  const one = async (sql: string, bind: unknown[] = []) =>
    ((await db.rows<{ id: string }>(sql, bind))[0] as { id: string }).id;
  const domainId = await one("insert into domain (name) values ('Travel') returning id");
  const personId = await one("insert into person (name, email) values ('Nils Test', 'nils@example.org') returning id");
  await db.run("insert into role_grant (person_id, role) values ($1, 'administrator')", [personId]);
  const sourceId = await one(
    'insert into source (name, kind, address, domain_id) values (\'Test source\', \'postgresql\', \'{"host": "127.0.0.1", "port": 1, "database": "db"}\', $1) returning id',
    [domainId],
  );
  return { personId, domainId, sourceId };
}

/** What is sent for a policy: one that protects everyone from nothing yet. */
export const policyBody = (more: Partial<PolicyBody> = {}): PolicyBody => ({
  name: 'P',
  effect: 'protect',
  everyone: true,
  groupIds: [],
  personIds: [],
  exceptGroupIds: [],
  assetIds: [],
  classKeys: [],
  filter: null,
  carried: false,
  columns: null,
  columnsBut: false,
  mask: null,
  rows: null,
  until: null,
  hours: null,
  purposes: [],
  opens: 'read',
  passesOn: false,
  enabled: true,
  ...more,
});

/** A policy as it is when somebody has written it: what is not said holds for nobody and nothing. */
export async function addPolicy(
  db: Database,
  {
    groupIds = [],
    personIds = [],
    exceptGroupIds = [],
    assetIds = [],
    classKeys = [],
    until = null,
    ...row
  }: Partial<PolicyBody> & {
    name: string;
    createdBy?: string;
    givenBy?: string;
  },
): Promise<string> {
  const values: Partial<PolicyRow> = {
    effect: 'allow',
    everyone: false,
    filter: null,
    carried: false,
    columns: null,
    columnsBut: false,
    mask: null,
    rows: null,
    until: until === null ? null : new Date(until),
    hours: null,
    purposes: [],
    opens: 'read',
    passesOn: false,
    enabled: true,
    ...row,
  };
  const made = await modelIn(db, POLICY).create(values as never);
  const id = String(made.get('id'));
  await writeLists(db, id, { groupIds, personIds, exceptGroupIds, assetIds, classKeys });
  return id;
}

/** Registers a database of the test cluster as a source, with a credential of its own. @returns the id of the source */
export async function postgresSource(
  db: Database,
  {
    name,
    domainId,
    database,
    key,
    user,
    password,
  }: { name: string; domainId: string; database: string; key: Buffer; user?: string; password?: string },
): Promise<string> {
  const url = new URL(urlOf(database));
  const one = async (sql: string, bind: unknown[]) =>
    ((await db.rows<{ id: string }>(sql, bind))[0] as { id: string }).id;
  const credential = await one('insert into credential (name, username, secret) values ($1, $2, $3) returning id', [
    `credential of ${name}`,
    user ?? url.username,
    encrypt(key, password ?? decodeURIComponent(url.password)),
  ]);
  return one(
    "insert into source (name, kind, address, domain_id, credential_id) values ($1, 'postgresql', $2, $3, $4) returning id",
    [name, JSON.stringify({ host: url.hostname, port: Number(url.port), database }), domainId, credential],
  );
}

/** A database of the test cluster as connectors are given it, read as the account that may do everything. */
export function inputOf(database: string) {
  const url = new URL(urlOf(database));
  return {
    name: database,
    address: { host: url.hostname, port: Number(url.port), database },
    secret: { username: url.username, password: decodeURIComponent(url.password) },
  };
}

/** Somebody with a role in a domain. */
export async function personWith(db: Database, name: string, role: string, domainId: string | null): Promise<Who> {
  const made = await db.one<{ id: string }>('insert into person (name, email) values ($1, $1) returning id', [name]);
  await db.run('insert into role_grant (person_id, role, domain_id) values ($1, $2, $3)', [made?.id, role, domainId]);
  return (await loadWho(db, made?.id ?? '')) as Who;
}

/** A place with people: who may do everything, an editor and a reader of its domain, and a stranger, who edits in another domain. */
export async function staffed(db: Database) {
  const made = await furnish(db);
  const elsewhere = await db.one<{ id: string }>("insert into domain (name) values ('Crewing') returning id");
  return {
    ...made,
    elsewhere: elsewhere?.id ?? '',
    who: (await loadWho(db, made.personId)) as Who,
    editor: await personWith(db, 'Edda', 'editor', made.domainId),
    reader: await personWith(db, 'Rune', 'reader', made.domainId),
    stranger: await personWith(db, 'Sten', 'editor', elsewhere?.id ?? null),
  };
}

/** How something was refused; undefined where it was not. */
export const refused = (
  work: Promise<unknown>,
): Promise<{ status: number; code: string; detail: string; mend: unknown; current: unknown } | undefined> =>
  work.then(
    () => undefined,
    ({ status, code, message, more }: ApiProblem) => ({
      status,
      code,
      detail: message,
      mend: more.mend,
      current: more.current,
    }),
  );
