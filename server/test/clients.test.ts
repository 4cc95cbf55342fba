import { execFile } from 'node:child_process';
import { rmSync, statSync } from 'node:fs';
import { type AddressInfo, connect, type Socket } from 'node:net';
import { promisify } from 'node:util';
import fc from 'fast-check';
import pg from 'pg';
import Cursor from 'pg-cursor';
import { pino } from 'pino';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { BINARY } from '../src/access/clients/binary.ts';
import { Incoming, ProtocolError, type Sent } from '../src/access/clients/messages.ts';
import { purposeStated } from '../src/access/clients/purpose.ts';
import { openClients } from '../src/access/clients/server.ts';
import { type Reading, Session } from '../src/access/clients/session.ts';
import { endClientKey, listClientKeys, makeClientKey } from '../src/people/clientKeys.ts';
import type { Who } from '../src/people/index.ts';
import type { Config } from '../src/platform/config.ts';
import type { Context } from '../src/platform/context.ts';
import { executeRun } from '../src/scanning/index.ts';
import { makeCertificates } from './certificates.ts';
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

/** Programs that read through the gateway by PostgreSQL's protocol: psql, a driver, and what breaks the protocol. */
const system = `client_${process.pid}`;
const SCHEMA = `
  create schema shop;
  create type shop.mood as enum ('glad', 'sad');
  create table shop.person (id int primary key, town text, email text, card text);
  insert into shop.person select i, case when i % 3 = 0 then 'HIDDENtown' else 'Ulvey' end, 'SECRET' || i || '@example.org', 'SECRET4111' from generate_series(1, 30) i;
  create table shop.kinds (n2 int2, n4 int4, n8 int8, r4 real, r8 double precision, yes boolean, day date, at timestamptz, plain timestamp, who uuid, raw bytea, said text, name varchar(10), mood shop.mood, money numeric);
  insert into shop.kinds values (-3, 70000, 9007199254740993, 1.5, 0.1, true, '2026-02-28', '2026-02-28 13:14:15.123456+02', '1969-07-20 20:17:40.5', 'a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11', '\\xdeadbeef', 'æøå', 'ten', 'glad', 12.50), (null, null, null, null, null, null, null, null, null, null, null, null, null, null, null);
  create table shop.closed (note text);
  create view shop."it's ""odd""" as select id, town as "a\\b 'c'" from shop.person;
  create table shop.many as select i as n, repeat('x', 50) as filling from generate_series(1, 200000) i`;

const ODD = `it's "odd"`;
/** A description that would break out of a constant, were it not one. */
const SAID = `Guests' \\' E'x $1 $$ */ -- "`;

let place: Awaited<ReturnType<typeof freshDatabase>>;
let config: Config;
let context: Context;
let open: NonNullable<Awaited<ReturnType<typeof openClients>>>;
let reader: Who;
let key: string;
let port: number;
const portOf = (opened: Awaited<ReturnType<typeof openClients>>) =>
  (opened?.server.address() as AddressInfo | undefined)?.port ?? 0;
const clientKey = (who: Who, name = 'here') => place.db.transaction((tx) => makeClientKey(tx, who, { name, days: 2 }));

beforeAll(async () => {
  place = await freshDatabase();
  const { db } = place;
  config = { ...testConfig(), host: '127.0.0.1', clients: { port: 0, tls: null } };
  const { domainId } = await furnish(db);
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) => client.query(SCHEMA));
  const sourceId = await postgresSource(db, { name: 'The Shop', domainId, database: system, key: config.key });
  const run = await db.one<{ id: string }>(
    'insert into scan_run (source_id, options) values ($1, \'{"sample": false}\') returning id',
    [sourceId],
  );
  await executeRun(db, config, run?.id ?? '');
  reader = await personWith(db, 'rune@example.org', 'reader', domainId);
  const id = async (name: string) =>
    (await db.one<{ id: string }>("select id from asset where name = $1 and kind in ('table', 'view')", [name]))?.id ??
    '';
  const [person, kinds, many, odd] = [await id('person'), await id('kinds'), await id('many'), await id(ODD)];
  await db.run('update asset set description = $2 where id = $1', [person, SAID]);
  const given = { personIds: [reader.id] };
  await addPolicy(db, { ...given, name: 'Reads', assetIds: [person, kinds, many, odd] });
  await addPolicy(db, { ...given, name: 'No cards', effect: 'deny', assetIds: [person], columns: ['card'] });
  await addPolicy(db, {
    ...given,
    name: 'In part',
    effect: 'protect',
    assetIds: [person],
    columns: ['email'],
    mask: { kind: 'partial', first: 1, last: 0 },
  });
  await addPolicy(db, {
    ...given,
    name: 'Of Ulvey',
    effect: 'protect',
    assetIds: [person],
    rows: { column: 'town', values: ['Ulvey'], attribute: null, through: null },
  });
  context = { db, config, log: pino({ level: 'silent' }), signals: undefined as never };
  open = (await openClients(context)) as typeof open;
  port = portOf(open);
  key = (await clientKey(reader)).key;
});
afterAll(async () => {
  await open?.close();
  await place?.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
});

const addressed = (more: pg.ClientConfig = {}): pg.ClientConfig => ({
  host: '127.0.0.1',
  port,
  user: reader.name,
  password: key,
  database: 'The Shop',
  ...more,
});
async function asReader<T>(work: (client: pg.Client) => Promise<T>, more: pg.ClientConfig = {}): Promise<T> {
  const client = new pg.Client(addressed(more));
  client.on('error', () => undefined); // told by what fails
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end().catch(() => undefined);
  }
}
/** How a driver is told of an error. */
const failing = async (work: Promise<unknown>) => {
  const error = (await work.then(
    () => undefined,
    (failed: unknown) => failed,
  )) as { code?: string; message: string; hint?: string; position?: string } | undefined;
  return error && { code: error.code, message: error.message, hint: error.hint, position: error.position };
};
const psql = async (...args: string[]) => {
  const { stdout, stderr } = await promisify(execFile)(
    'psql',
    ['-X', '-A', '-t', '-h', '127.0.0.1', '-p', String(port), '-U', reader.name, '-d', 'The Shop', ...args],
    { env: { ...process.env, PGPASSWORD: key }, maxBuffer: 64 << 20 },
  ).catch((error: { stdout: string; stderr: string }) => error);
  return { out: stdout.trim(), err: stderr.trim() };
};

describe('a key of a client', () => {
  it('is told once, kept as a digest, listed to its person alone, and ended by them alone', async () => {
    const other = await personWith(place.db, 'sten@example.org', 'reader', null);
    const made = await clientKey(other, 'reports');
    expect(made.key).toMatch(/^idrel_client_/);
    const kept = await place.db.one<{ row: string }>(
      'select row_to_json(k)::text as row from client_key k where id = $1',
      [made.id],
    );
    expect(kept?.row).not.toContain(made.key.slice(13));
    expect(await listClientKeys(place.db, other)).toMatchObject([{ id: made.id, name: 'reports', usedAt: null }]);
    expect((await listClientKeys(place.db, reader)).map(({ id }) => id)).not.toContain(made.id);
    expect(await refused(place.db.transaction((tx) => endClientKey(tx, reader, made.id)))).toMatchObject({
      status: 404,
    });
    await place.db.transaction((tx) => endClientKey(tx, other, made.id));
    expect(await listClientKeys(place.db, other)).toEqual([]);
    const journal = await place.db.rows<{ action: string }>(
      "select action from journal where action like 'client key%'",
    );
    expect(new Set(journal.map(({ action }) => action))).toEqual(new Set(['client key made', 'client key ended']));
  });

  it('lets nobody in with another’s address, without one, once it has ended, or once its person has left', async () => {
    const wrong = (more: pg.ClientConfig) => failing(asReader(async () => undefined, more));
    for (const more of [{ user: 'nils@example.org' }, { password: 'x' }, { password: `${key}x` }])
      expect(await wrong(more)).toMatchObject({ code: '28P01' });
    expect(await wrong({ database: 'Test nowhere' })).toMatchObject({ code: '3D000' });
    const leaver = await personWith(place.db, 'leaver@example.org', 'administrator', null);
    const { key: theirs, id } = await clientKey(leaver);
    const login = { user: leaver.name, password: theirs };
    await asReader(async (client) => {
      expect((await client.query('select 1 as n')).rows).toEqual([{ n: 1 }]);
      // A connection that is open already reads nothing more.
      await place.db.transaction((tx) => endClientKey(tx, leaver, id));
      expect(await failing(client.query('select 1'))).toMatchObject({ code: '28000' });
    }, login);
    const again = await clientKey(leaver);
    await place.db.run('update person set left_at = now() where id = $1', [leaver.id]);
    expect(await wrong({ ...login, password: again.key })).toMatchObject({ code: '28P01' });
    const third = await clientKey(reader, 'short');
    await place.db.run("update client_key set ends_at = now() - interval '1 second' where id = $1", [third.id]);
    expect(await wrong({ password: third.key })).toMatchObject({ code: '28P01' });
  });
});

describe('psql', () => {
  it('gives what the policies give, and says why it gives no more', async () => {
    const { out } = await psql('-c', 'select id, town, email from shop.person order by id limit 3');
    expect(out.split('\n')).toEqual(['1|Ulvey|S•••', '2|Ulvey|S•••', '4|Ulvey|S•••']);
    expect((await psql('-c', 'select * from shop.person')).out).not.toMatch(/SECRET\d|4111|HIDDEN/);
    const hidden = await psql('-c', 'select card from shop.person');
    expect(hidden).toMatchObject({ out: '', err: expect.stringMatching(/card may not be read: denied by “No cards”/) });
    expect((await psql('-c', 'delete from shop.person')).err).toMatch(/Only SELECT passes; this is DELETE/);
    expect((await psql('-c', 'select * from')).err).toMatch(/syntax error at end of input\nLINE 1: select [*] from\n/);
  });

  it('sends several statements at once, blocks, and cursors', async () => {
    expect((await psql('-c', "select 1; select 'two'; show server_encoding")).out.split('\n')).toEqual([
      '1',
      'two',
      'UTF8',
    ]);
    const many = await psql(
      '-v',
      'FETCH_COUNT=1000',
      '-c',
      'select 1',
      '-c',
      'select n from shop.many where n <= 2500 order by n',
    );
    expect(many.out.split('\n')).toHaveLength(2501);
    const failed = await psql('-c', 'begin', '-c', 'select nope', '-c', 'select 1', '-c', 'rollback', '-c', 'select 2');
    expect(failed.out.split('\n')).toEqual(['BEGIN', 'ROLLBACK', '2']);
    expect(failed.err).toMatch(/The block has failed/);
    const back = await psql(
      '-c',
      'begin',
      '-c',
      'savepoint a',
      '-c',
      'select nope',
      '-c',
      'rollback to a',
      '-c',
      'select 2',
      '-c',
      'commit',
    );
    expect(back.out.split('\n')).toEqual(['BEGIN', 'SAVEPOINT', 'ROLLBACK', '2', 'COMMIT']);
  });
});

describe('rows copied out', () => {
  it('are lines of text or of CSV, of a query or of a table, as the policies give them', async () => {
    const said = `select 'a,b' as one, 'say "hi"' as two, '' as three, null as four, E'x\\ty\\\\' as five`;
    expect((await psql('-c', `copy (${said}) to stdout`)).out).toBe('a,b\tsay "hi"\t\t\\N\tx\\ty\\\\');
    expect((await psql('-c', `copy (${said}) to stdout (format csv, header)`)).out.split('\n')).toEqual([
      'one,two,three,four,five',
      '"a,b","say ""hi""","",,x\ty\\',
    ]);
    expect((await psql('-c', '\\copy (select id, email from shop.person order by id limit 2) to stdout csv')).out).toBe(
      '1,S•••\n2,S•••',
    );
    expect((await psql('-c', 'copy shop.person (id, town) to stdout')).out.split('\n')).toHaveLength(20);
    expect((await psql('-c', 'copy shop.many to stdout')).out.split('\n')).toHaveLength(200000);
    expect((await psql('-c', 'copy shop.person (card) to stdout')).err).toMatch(/card may not be read/);
    for (const refusedThere of [
      'copy shop.person from stdin',
      "copy (select 1) to '/tmp/x'",
      "copy (select 1) to program 'ls'",
      'copy (delete from shop.person returning id) to stdout',
      'copy (select 1) to stdout (format binary)',
    ])
      expect((await psql('-c', refusedThere)).err, refusedThere).toMatch(/ERROR: {2}(Only SELECT passes|COPY with)/);
  });
});

describe('a driver', () => {
  it('is given types, and parameters that can be nothing but values', async () => {
    await asReader(async (client) => {
      const { rows } = await client.query('select n4, yes, at, mood, money from shop.kinds where n4 is not null');
      expect(rows).toEqual([
        { n4: 70000, yes: true, at: new Date('2026-02-28T11:14:15.123Z'), mood: 'glad', money: '12.50' },
      ]);
      const named = (n: number, town: string) =>
        client.query({
          name: 'by town',
          text: 'select id from shop.person where id > $1 and town = $2 order by id limit 2',
          values: [n, town],
        });
      expect((await named(1, 'Ulvey')).rows).toEqual([{ id: 2 }, { id: 4 }]);
      expect((await named(25, 'Ulvey')).rows).toEqual([{ id: 26 }, { id: 28 }]);
      expect((await named(0, "' or true --")).rows).toEqual([]);
      expect((await client.query('select $1::int + 1 as n, $2::text as t', [41, null])).rows).toEqual([
        { n: 42, t: null },
      ]);
      expect(await failing(client.query('select $1::int', ['x']))).toMatchObject({ code: '22P02' });
      expect(await failing(client.query('select id from shop.person where card = $1', ['SECRET4111']))).toMatchObject({
        code: '42501',
      });
    });
  });

  it('takes rows in parts, and goes on after an error', async () => {
    await asReader(async (client) => {
      await client.query('begin');
      const cursor = client.query(new Cursor('select n from shop.many order by n'));
      expect((await cursor.read(2)).map(({ n }) => n)).toEqual([1, 2]);
      expect((await cursor.read(1000)).at(-1)).toEqual({ n: 1002 });
      await cursor.close();
      await client.query('commit');
      expect(await failing(client.query('select from where'))).toMatchObject({ code: '42601', position: '13' });
      expect((await client.query('select count(*)::int as n from shop.many')).rows).toEqual([{ n: 200000 }]);
      expect((await client.query('select n, filling from shop.many')).rows).toHaveLength(200000);
    });
  });

  it('is told what a statement takes and gives without its being run', async () => {
    const told = await asReader(
      (client) =>
        new Promise<{ takes: number[]; gives: string[] }>((resolve, reject) => {
          const { connection } = client as unknown as { connection: pg.Connection };
          let takes: number[] = [];
          connection.once('parameterDescription', ({ dataTypeIDs }: { dataTypeIDs: number[] }) => {
            takes = dataTypeIDs;
          });
          client.query({
            submit(to: pg.Connection) {
              to.parse(
                { name: 's', text: 'select email, id from shop.person where id = $1 and town = $2', types: [] },
                true,
              );
              to.describe({ type: 'S', name: 's' }, true);
              to.sync();
            },
            handleRowDescription({ fields }: { fields: { name: string; dataTypeID: number }[] }) {
              resolve({ takes, gives: fields.map(({ name, dataTypeID }) => `${name} ${dataTypeID}`) });
            },
            handleError: reject,
            handleReadyForQuery: () => undefined,
          } as unknown as pg.Submittable);
        }),
    );
    expect(told).toEqual({ takes: [23, 25], gives: ['email 25', 'id 23'] });
  });

  it('ends what it cancels, and what it leaves behind', async () => {
    const busy = () =>
      withClient(
        urlOf(system),
        async (client) =>
          (
            await client.query(
              "select count(*)::int as n from pg_stat_activity where datname = current_database() and state = 'active' and query like '%generate_series%' and pid <> pg_backend_pid()",
            )
          ).rows[0].n as number,
      );
    const long = 'select count(*) from generate_series(1, 1000000000)';
    await asReader(async (client) => {
      const running = failing(client.query(long));
      await expect.poll(busy).toBe(1);
      const { processID, secretKey } = client as unknown as { processID: number; secretKey: number };
      const cancel = (secret: number) =>
        new Promise<void>((resolve) => {
          const socket = connect(port, '127.0.0.1');
          const message = Buffer.alloc(16);
          [16, 80_877_102, processID, secret].forEach((value, at) => message.writeInt32BE(value, at * 4));
          socket.on('close', () => resolve());
          socket.end(message);
        });
      await cancel(secretKey ^ 1); // of another
      expect(await busy()).toBe(1);
      await cancel(secretKey);
      expect(await running).toMatchObject({ code: '57014', message: 'The statement was cancelled.' });
      expect((await client.query('select 1 as n')).rows).toEqual([{ n: 1 }]);
    });
    const client = new pg.Client(addressed());
    client.on('error', () => undefined);
    await client.connect();
    client.query(long).catch(() => undefined);
    await expect.poll(busy).toBe(1);
    (client as unknown as { connection: { stream: Socket } }).connection.stream.destroy();
    await expect.poll(busy).toBe(0);
  });

  it('stands in the log of queries with what became of each statement, and never with a value of it', async () => {
    await asReader((client) => client.query('select id from shop.person where town = $1', ['SECRETvalue']));
    const noted = await place.db.rows<{ statement: string; outcome: string }>(
      'select statement, outcome from gateway_query where asked_by = $1 order by id desc limit 1',
      [reader.id],
    );
    expect(noted).toEqual([{ statement: 'select id from shop.person where town = $1', outcome: 'answered' }]);
  });
});

describe('the catalog as programs ask for it', () => {
  const shown = async (sql: string, values: unknown[] = []) =>
    asReader(async (client) => (await client.query({ text: sql, values, rowMode: 'array' })).rows as unknown[][]);

  it('has the schemas, tables and columns that the reader may read, with types as they come', async () => {
    expect((await psql('-c', '\\dn')).out).toBe('shop|idrel');
    const tables = (await psql('-c', '\\d')).out;
    expect(tables.split('\n').map((line) => line.split('|').slice(1, 3).join(' '))).toEqual([
      `${ODD} view`,
      'kinds table',
      'many table',
      'person table',
    ]);
    const described = (await psql('-c', '\\d shop.person')).out.split('\n');
    expect(described.map((line) => line.split('|').slice(0, 4).join('|'))).toEqual([
      'id|integer||not null',
      'town|text||',
      'email|text||',
    ]);
    expect(
      await shown(
        'select column_name, data_type, character_maximum_length from information_schema.columns where table_schema = $1 and table_name = $2 and ordinal_position > 11 order by ordinal_position',
        ['shop', 'kinds'],
      ),
    ).toEqual([
      ['said', 'text', null],
      ['name', 'character varying', 10],
      ['mood', 'text', null],
      ['money', 'numeric', null],
    ]);
    expect(await shown(`select column_name from information_schema.columns where table_name = 'it''s "odd"'`)).toEqual([
      ['id'],
      [`a\\b 'c'`],
    ]);
  });

  it('answers what drivers and tools ask of it', async () => {
    const [version, person, database, schemas] =
      (await shown('select version(), current_user, current_database(), current_schemas(true)'))[0] ?? [];
    expect([version, person, database, schemas]).toEqual([
      'PostgreSQL 15.0 (Idrel)',
      reader.name,
      'The Shop',
      '{shop}',
    ]);
    const described = await shown(`
      SELECT NULL AS TABLE_CAT, n.nspname AS TABLE_SCHEM, c.relname AS TABLE_NAME,
        CASE c.relkind WHEN 'r' THEN 'TABLE' WHEN 'v' THEN 'VIEW' ELSE NULL END AS TABLE_TYPE, d.description AS REMARKS
      FROM pg_catalog.pg_namespace n, pg_catalog.pg_class c
      LEFT JOIN pg_catalog.pg_description d ON (c.oid = d.objoid AND d.objsubid = 0 AND d.classoid = 'pg_class'::regclass)
      WHERE c.relnamespace = n.oid AND n.nspname LIKE 'shop' AND c.relname = 'person'`);
    expect(described).toEqual([[null, 'shop', 'person', 'TABLE', SAID]]);
    const columns = await shown(`
      SELECT * FROM (SELECT n.nspname, c.relname, a.attname, a.atttypid, a.attnotnull OR (t.typtype = 'd' AND t.typnotnull) AS attnotnull, a.atttypmod, a.attlen,
        t.typtypmod, row_number() OVER (PARTITION BY a.attrelid ORDER BY a.attnum) AS attnum, nullif(a.attidentity, '') as attidentity,
        pg_catalog.pg_get_expr(def.adbin, def.adrelid) AS adsrc, dsc.description, t.typbasetype, t.typtype
      FROM pg_catalog.pg_namespace n JOIN pg_catalog.pg_class c ON (c.relnamespace = n.oid)
      JOIN pg_catalog.pg_attribute a ON (a.attrelid = c.oid) JOIN pg_catalog.pg_type t ON (a.atttypid = t.oid)
      LEFT JOIN pg_catalog.pg_attrdef def ON (a.attrelid = def.adrelid AND a.attnum = def.adnum)
      LEFT JOIN pg_catalog.pg_description dsc ON (c.oid = dsc.objoid AND a.attnum = dsc.objsubid)
      WHERE c.relkind in ('r','p','v','f','m') and a.attnum > 0 AND NOT a.attisdropped AND c.relname LIKE 'person') c WHERE true ORDER BY nspname, c.relname, attnum`);
    expect(columns.map(([, , name, type, notNull]) => [name, type, notNull])).toEqual([
      ['id', 23, true],
      ['town', 25, false],
      ['email', 25, false],
    ]);
    expect(
      await shown("select typname from pg_type where oid = 23 or typname in ('mood', 'person', 'closed')"),
    ).toEqual([['int4']]);
    expect(await shown("select 'shop.person'::regclass = c.oid from pg_class c where relname = 'person'")).toEqual([
      [true],
    ]);
  });

  it('has nothing of what the reader may not read, and no way to the catalog of the source', async () => {
    expect(await shown("select relname from pg_class where relname = 'closed'")).toEqual([]);
    expect(await shown("select attname from pg_attribute where attname = 'card'")).toEqual([]);
    expect(await shown("select 'shop.closed'::regclass, to_regclass('shop.closed'), 'pg_authid'::regclass")).toEqual([
      [null, null, null],
    ]);
    for (const empty of [
      'pg_stat_activity',
      'pg_settings',
      'pg_proc',
      'pg_constraint',
      'pg_enum',
      'pg_stats',
      'pg_extension',
    ])
      expect(await shown(`select * from pg_catalog.${empty}`)).toEqual([]);
    for (const sql of [
      "select pg_read_file('/etc/passwd') from pg_class",
      "select set_config('a.b', relname, false) from pg_class",
      'select shop.leak(relname) from pg_class',
      'select pg_terminate_backend(1), version()',
      'select relname, pg_sleep(1) from pg_class',
      "select relname from pg_class where relname operator(shop.===) 'x'",
      'select relname::shop.mood from pg_class',
      "select query_to_xml('select 1', true, true, ''), version()",
      'select lo_get(1) from pg_class',
      'select current_setting(relname), dblink(relname) from pg_class',
      'select c.relname from pg_class c, shop.closed',
      'select c.relname, p.card from pg_class c, shop.person p',
      'select * from pg_toast.pg_toast_1, pg_class',
    ])
      expect(await failing(shown(sql)), sql).toMatchObject({ code: expect.stringMatching(/^(42501|0A000|42P01)$/) });
  });
});

describe('many programs', () => {
  it('of one person are no more than fifty at once; when one goes another comes', async () => {
    const clients = Array.from({ length: 51 }, () => new pg.Client(addressed()));
    for (const client of clients) client.on('error', () => undefined);
    for (const client of clients.slice(0, 50)) await client.connect();
    expect(await failing((clients[50] as pg.Client).connect())).toMatchObject({ code: '53300' });
    expect((await (clients[49] as pg.Client).query('select 1 as n')).rows).toEqual([{ n: 1 }]);
    await clients[0]?.end();
    await expect.poll(() => asReader(async () => 'in').catch(() => 'out')).toBe('in');
    for (const client of clients.slice(1)) await client.end().catch(() => undefined);
  });
});

describe('what does not keep to the protocol', () => {
  const raw = (bytes: Buffer) =>
    new Promise<Buffer>((resolve) => {
      const socket = connect(port, '127.0.0.1');
      const got: Buffer[] = [];
      socket.on('data', (some: Buffer) => got.push(some));
      socket.on('error', () => undefined);
      socket.on('close', () => resolve(Buffer.concat(got)));
      socket.end(bytes);
    });
  const start = Buffer.concat([Buffer.from([0, 0, 0, 18, 0, 3, 0, 0]), Buffer.from('user\0a@b\0\0')]);

  it('is ended with a reason where there is one, and hurts nobody else', async () => {
    const head = Buffer.alloc(8);
    head.writeInt32BE(2 ** 30, 0);
    const version = Buffer.from([0, 0, 0, 8, 0, 2, 0, 0]);
    expect((await raw(head)).toString()).toContain('08P01');
    expect((await raw(version)).toString()).toContain('protocol 2.0 is not spoken');
    expect((await raw(Buffer.from('GET / HTTP/1.1\r\n\r\n'))).toString()).toContain('08P01');
    // A statement before anybody has signed in: nothing of it is answered.
    const early = Buffer.concat([start, Buffer.from([0x51, 0, 0, 0, 13]), Buffer.from('select 1\0')]);
    expect([...(await raw(early))]).toEqual([0x52, 0, 0, 0, 8, 0, 0, 0, 3]);
    expect((await psql('-c', 'select 1')).out).toBe('1');
  });

  it('whatever is sent, it is a message or an error of the protocol', () => {
    fc.assert(
      fc.property(fc.array(fc.uint8Array({ maxLength: 60 }), { maxLength: 6 }), fc.boolean(), (pieces, isOpen) => {
        const incoming = new Incoming();
        if (isOpen) incoming.open();
        for (const piece of pieces) {
          incoming.add(Buffer.from(piece));
          try {
            for (let message = incoming.next(); message; message = incoming.next())
              expect(message.kind).toMatch(/^\w+$/);
          } catch (error) {
            expect(error).toBeInstanceOf(ProtocolError);
            return;
          }
        }
      }),
      { numRuns: 1000 },
    );
  });

  it('messages come out the same wherever the network parts them', () => {
    const text = Buffer.from('select $1\0');
    const query = Buffer.concat([Buffer.from([0x51, 0, 0, 0, 4 + text.length]), text]);
    const all = Buffer.concat([query, Buffer.from([0x53, 0, 0, 0, 4]), query]);
    const read = (cuts: readonly number[]) => {
      const incoming = new Incoming();
      incoming.open();
      const out = [];
      const ends = [...new Set([...cuts, all.length])].sort((a, b) => a - b);
      for (const [nth, end] of ends.entries()) {
        incoming.add(all.subarray(ends[nth - 1] ?? 0, end));
        for (let message = incoming.next(); message; message = incoming.next()) out.push(message);
      }
      return out;
    };
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: all.length }), { maxLength: 8 }), (cuts) => {
        expect(read(cuts)).toEqual(read([]));
      }),
    );
    expect(read([])).toHaveLength(3);
  });
});

/** What a session writes when it is sent some messages, as letters with what stands in each. */
async function answered(reading: Partial<Reading>, ...messages: Sent[]) {
  let bytes = Buffer.alloc(0);
  const session = new Session({ most: '1 MB', ...reading } as Reading, async (some) => {
    bytes = Buffer.concat([bytes, some]);
  });
  for (const message of messages) await session.take(message);
  const out: { letter: string; body: Buffer }[] = [];
  for (let at = 0; at < bytes.length; ) {
    const length = bytes.readInt32BE(at + 1);
    out.push({ letter: String.fromCharCode(bytes[at] ?? 0), body: bytes.subarray(at + 5, at + 1 + length) });
    at += 1 + length;
  }
  return out;
}

describe('what is read for', () => {
  it('is stated by a setting, or when the program connects, and holds until it is another', async () => {
    const { db } = place;
    const [closed] = await db.rows<{ id: string }>("select id from asset where name = 'closed' and kind = 'table'");
    await addPolicy(db, {
      name: 'For audits',
      personIds: [reader.id],
      assetIds: [closed?.id ?? ''],
      purposes: ['Audit', 'End of year'],
    });
    const ask = (client: pg.Client) => client.query('select count(*) from closed');
    const shown = async (client: pg.Client) => (await client.query('show idrel.purpose')).rows[0]?.['idrel.purpose'];
    await asReader(async (client) => {
      expect(await failing(ask(client))).toMatchObject({ code: '42501', message: expect.stringContaining('“Audit”') });
      expect((await client.query("select 1 from pg_class where relname = 'closed'")).rowCount).toBe(0);
      await client.query("set idrel.purpose = 'Audit'");
      expect((await ask(client)).rows).toEqual([{ count: '0' }]);
      expect((await client.query("select 1 from pg_class where relname = 'closed'")).rowCount).toBe(1);
      await client.query("set idrel.purpose to 'Curiosity'");
      expect(await failing(ask(client))).toMatchObject({ code: '42501' });
      expect(await shown(client)).toBe('Curiosity');
      await client.query('reset idrel.purpose');
      expect(await shown(client)).toBeNull();
    });
    await asReader(
      async (client) => {
        expect((await ask(client)).rows).toEqual([{ count: '0' }]);
        expect(await shown(client)).toBe('End of year');
        await client.query("set idrel.purpose = ''");
        expect(await failing(ask(client))).toMatchObject({ code: '42501' });
        await client.query('discard all');
        expect((await ask(client)).rows).toEqual([{ count: '0' }]);
      },
      { options: '-c geqo=off -c idrel.purpose=End\\ of\\ year' },
    );
    const noted = await db.rows(
      "select outcome, purpose, count(*)::int as n from gateway_query where statement = 'select count(*) from closed' group by 1, 2 order by 1, 2 nulls first",
    );
    expect(noted).toEqual([
      { outcome: 'answered', purpose: 'Audit', n: 1 },
      { outcome: 'answered', purpose: 'End of year', n: 2 },
      { outcome: 'refused-no-access', purpose: null, n: 2 },
      { outcome: 'refused-no-access', purpose: 'Curiosity', n: 1 },
    ]);
    await db.run("delete from policy where name = 'For audits'");
  });

  it.each([
    ['', null],
    ['-c idrel.purpose=Audit', 'Audit'],
    ['-cidrel.purpose=Audit', 'Audit'],
    ['--idrel.purpose=Audit', 'Audit'],
    ['-c a=b -c idrel.purpose=One -c idrel.purpose=Two', 'Two'],
    ['-c idrel.purpose=a\\\\b\\ c', 'a\\b c'],
    ['-c', null],
    ['idrel.purposes=x -c other=idrel.purpose=y', null],
  ])('options %j: %j', (options, expected) => expect(purposeStated(options)).toBe(expected));
});

describe('values as binary', () => {
  it('go over as their types have it where they are asked for so, and are refused where that is not known', async () => {
    const types = [21, 23, 701, 16, 25, 1082, 2950, 20_000];
    const row = ['-3', '70000', '0.1', 't', 'æøå', '2026-02-28', 'a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11', 'glad'];
    const giving = (ids: readonly number[], values: (string | null)[]): Partial<Reading> => ({
      run: async (_sql, _purpose, _values, take) => {
        await take(
          ids.map((typeId, at) => ({ name: `c${at}`, typeId, typeSize: -1, typeModifier: -1 })),
          [values],
        );
        return { rows: 1, capped: false };
      },
    });
    const asked: Sent[] = [
      { kind: 'parse', name: '', sql: 'select 1', types: [] },
      { kind: 'bind', portal: '', statement: '', binary: [], values: [], wanted: [true] },
      { kind: 'execute', portal: '', most: 0 },
      { kind: 'sync' },
    ];
    const all = await answered(giving(types, row), ...asked);
    expect(all.map(({ letter }) => letter).join('')).toBe('12DCZ');
    const body = all[2]?.body ?? Buffer.alloc(0);
    let at = 2;
    const back = types.map((type) => {
      const length = body.readInt32BE(at);
      const value = BINARY.get(type < 16_384 ? type : 25)?.read(body.subarray(at + 4, at + 4 + length));
      at += 4 + length;
      return value;
    });
    expect(back).toEqual(row);
    const refusedThere = await answered(giving([1700], ['1.5']), ...asked);
    expect(refusedThere.map(({ letter }) => letter).join('')).toBe('12EZ');
    expect(refusedThere[2]?.body.toString()).toContain('“c0” is asked for as binary');
  });

  it('are read as their types have it, told or found out', async () => {
    const given: unknown[] = [];
    const reading: Partial<Reading> = {
      describe: async () => ({ parameters: [20, 25], columns: [] }),
      run: async (_sql, _purpose, values, take) => {
        given.push(values);
        await take([{ name: 'n', typeId: 23, typeSize: 4, typeModifier: -1 }], []);
        return { rows: 0, capped: false };
      },
    };
    const bound = (types: number[], values: (Buffer | null)[], binary: boolean[]): Sent[] => [
      { kind: 'parse', name: '', sql: 'select $1, $2', types },
      { kind: 'bind', portal: '', statement: '', binary, values, wanted: [] },
      { kind: 'execute', portal: '', most: 0 },
      { kind: 'sync' },
    ];
    const eight = Buffer.alloc(8);
    eight.writeBigInt64BE(-5n);
    await answered(reading, ...bound([], [eight, Buffer.from('æ')], [true, false]));
    await answered(reading, ...bound([23], [Buffer.from([0, 0, 0, 7]), null], [true]));
    expect(given).toEqual([
      ['-5', 'æ'],
      ['7', null],
    ]);
    const unknown = await answered(reading, ...bound([1700], [Buffer.from([1])], [true]));
    expect(unknown.map(({ letter }) => letter).join('')).toBe('1EZ');
  });

  const both = (type: number, value: string) => {
    const known = BINARY.get(type);
    return known?.read(known.write(value));
  };
  it('come back as they went', () => {
    fc.assert(
      fc.property(fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }), (n) => both(20, String(n)) === String(n)),
    );
    fc.assert(fc.property(fc.double(), (n) => both(701, String(n)) === String(n)));
    fc.assert(fc.property(fc.uuid(), (id) => both(2950, id) === id));
    fc.assert(
      fc.property(
        fc.date({ min: new Date('1000-01-01'), max: new Date('9999-12-31'), noInvalidDate: true }),
        (date) => {
          const [day = '', time = ''] = date.toISOString().slice(0, -1).split('T');
          return both(1082, day) === day && both(1114, `${day} ${time}`) === `${day}T${time}000`;
        },
      ),
    );
  });
});

describe('encryption', () => {
  it('is asked for where it is offered: no key is taken in the clear', async () => {
    const certificates = makeCertificates(statSync(process.cwd()));
    const { key: keyFile, certificate } = certificates.of('good');
    const secured = await openClients({
      ...context,
      config: { ...config, clients: { port: 0, tls: { certificate, key: keyFile } } },
    });
    try {
      const at = { port: portOf(secured) };
      expect(await failing(asReader((client) => client.query('select 1'), at))).toMatchObject({ code: '28000' });
      const rows = asReader(async (client) => (await client.query('select 1 as n')).rows, {
        ...at,
        ssl: { rejectUnauthorized: false },
      });
      expect(await rows).toEqual([{ n: 1 }]);
    } finally {
      await secured?.close();
      rmSync(certificates.folder, { recursive: true, force: true });
    }
  });
});
