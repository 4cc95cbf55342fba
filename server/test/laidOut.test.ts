import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { PolicyBody } from '@idrel/contract/access';
import { fitsLaid, type LaidType } from '@idrel/core/access';
import fc from 'fast-check';
import sqlite from 'node-sqlite3-wasm';
import { pino } from 'pino';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { gatewayFor } from '../src/access/asPerson.ts';
import type { TextRow } from '../src/access/runQuery.ts';
import { answerShare, offerShare } from '../src/access/shares/service.ts';
import { shareCalled, sharedTables } from '../src/access/shares/theirs.ts';
import { shownTo } from '../src/access/shownCatalog.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { addPartner } from '../src/people/partners.ts';
import type { Config } from '../src/platform/config.ts';
import { encrypt } from '../src/platform/secrets.ts';
import { executeRun } from '../src/scanning/index.ts';
import { startMariaDb } from './mariadbServer.ts';
import { addPolicy, freshDatabase, furnish, personWith, testConfig, urlOf, withClient } from './place.ts';

/** Statements over sources that are not PostgreSQL: an SQLite file and a folder of files, read by the policies that hold for all. */
const work = `laid_${process.pid}`;
const folder = mkdtempSync(join(tmpdir(), 'idrel-laid-'));
const ids = new Map<string, string>();
let place: Awaited<ReturnType<typeof freshDatabase>>;
let config: Config;
let reader: Who;
let domainId: string;
const id = (name: string) => ids.get(name) ?? '';

function writeSources(): void {
  const database = new sqlite.Database(join(folder, 'office.sqlite'));
  database.exec(`
    create table guest (id integer primary key, port text, mail text, born date, fare numeric(8, 2), ok boolean);
    insert into guest values (1, 'Ulvey', 'ida@example.org', '1990-02-03', 12.5, 1), (2, 'Skarn', 'SECRET@example.org', '0000-00-00', 99, 0),
      (3, 'Ulvey', null, 'last year', '7.25', 1), (4, 'Ulvey', 'ola@example.org', '2001-12-31', 'much', null);
    create table visit (guest_id int, page text);
    insert into visit values (1, 'fares'), (1, 'ports'), (3, 'fares'), (2, 'SECRETpage');
    create table diary (note text);
    insert into diary values ('SECRETdiary');
    create table long (n int);
    with recursive c(n) as (select 1 union all select n + 1 from c where n < 100001) insert into long select n from c;
    create table wide (t text);`);
  database.run('insert into wide values (?)', ['x'.repeat(5000)]);
  database.close();
  mkdirSync(join(folder, 'files', 'tides', 'day=1'), { recursive: true });
  mkdirSync(join(folder, 'files', 'tides', 'day=2'));
  for (const day of [1, 2])
    writeFileSync(
      join(folder, 'files', 'tides', `day=${day}`, 'tide.csv'),
      `at,height\n2026-01-0${day} 10:00,1.${day}\n2026-01-0${day} 22:00,2.${day}\n`,
    );
  writeFileSync(join(folder, 'files', 'ports.csv'), 'code,name\nUL,Ulvey\nSK,Skarn\n');
}

async function scanned(name: string, kind: string, address: object, credential: string | null = null): Promise<void> {
  const one = async (sql: string, bind: unknown[]) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
  const source = await one(
    'insert into source (name, kind, address, domain_id, credential_id) values ($1, $2, $3, $4, $5) returning id',
    [name, kind, JSON.stringify(address), domainId, credential],
  );
  ids.set(name, source);
  await executeRun(
    place.db,
    config,
    await one('insert into scan_run (source_id, options) values ($1, \'{"sample": false}\') returning id', [source]),
  );
  for (const row of await place.db.rows<{ id: string; name: string }>(
    "select id, name from asset where source_id = $1 and kind in ('table', 'file', 'file set', 'folder')",
    [source],
  ))
    ids.set(row.name, row.id);
}

beforeAll(async () => {
  place = await freshDatabase();
  await withClient(urlOf('postgres'), async (client) => {
    await client.query(`create role ${work} login password 'work' nosuperuser`);
    await client.query(`create database ${work}`);
    await client.query(`revoke all on database ${work} from public`);
    await client.query(`grant connect, temporary on database ${work} to ${work}`);
  });
  const url = new URL(urlOf(work));
  [url.username, url.password] = [work, 'work'];
  config = { ...testConfig(), folderRoots: [folder], workUrl: url.href } as Config;
  ({ domainId } = await furnish(place.db));
  reader = await personWith(place.db, 'reader@example.org', 'reader', domainId);
  writeSources();
  await scanned('Office', 'sqlite', { path: join(folder, 'office.sqlite') });
  await scanned('Files', 'folder', { path: join(folder, 'files') });
}, 60_000);
afterAll(async () => {
  await place?.drop();
  await withClient(urlOf('postgres'), async (client) => {
    await client.query(`drop database if exists ${work} with (force)`);
    await client.query(`drop role if exists ${work}`);
  });
  rmSync(folder, { recursive: true, force: true });
});
beforeEach(async () => {
  await place.db.run('delete from policy');
});
const policy = (effect: PolicyBody['effect'], tables: readonly string[], more: Partial<PolicyBody> = {}) =>
  addPolicy(place.db, {
    name: `${effect} ${tables.join()} ${Object.keys(more).join()}`,
    effect,
    everyone: true,
    assetIds: tables.map(id),
    ...more,
  });

/** Rows of a statement, and what is said of them. */
async function ask(source: string, sql: string, values?: string[], how = config) {
  const gateway = gatewayFor({ db: place.db, config: how, log: pino({ level: 'silent' }) });
  const rows: TextRow[] = [];
  const take = (_: unknown, batch: TextRow[]) => {
    rows.push(...batch);
  };
  const bounds = { rows: 1000, bytes: 1e7, seconds: 60 };
  const { done } = await gateway.run(
    reader,
    reader.id,
    { id: id(source), version: 1 },
    sql,
    bounds,
    take,
    new AbortController().signal,
    {
      ...(values && { values }),
    },
  );
  return { rows, notes: done.notes ?? [] };
}
const rowsOf = async (source: string, sql: string, values?: string[]) => (await ask(source, sql, values)).rows;

describe('a statement over a source that is not PostgreSQL', () => {
  it('runs over its rows with the types that they have, and says what does not fit', async () => {
    await policy('allow', ['guest', 'visit']);
    expect(
      await rowsOf(
        'Office',
        'select g.port, count(*), sum(fare), bool_or(ok) from guest g join visit v on v.guest_id = g.id group by port order by 2 desc',
      ),
    ).toEqual([
      ['Ulvey', '3', '32.25', 't'],
      ['Skarn', '1', '99', 'f'],
    ]);
    const { rows, notes } = await ask(
      'Office',
      "select id, extract(year from born) from public.guest where born is null or born < '2000-01-01' order by 1",
    );
    expect(rows).toEqual([
      ['1', '1990'],
      ['2', null],
      ['3', null],
    ]);
    expect(notes).toEqual([
      '2 of 4 values of guest.born are no date and are left empty here; they are shown among its rows.',
    ]);
    expect(
      await rowsOf('Office', 'select id from guest where port = $1 and id > $2 order by 1', ['Ulvey', '1']),
    ).toEqual([['3'], ['4']]);
    expect(await rowsOf('Office', 'select count(*) from guest')).toEqual([['4']]);
    expect(await rowsOf('Office', 'select g from guest g where id = 1')).toEqual([
      ['(1,Ulvey,ida@example.org,1990-02-03,12.5,t)'],
    ]);
    await policy('allow', ['wide']);
    expect(await rowsOf('Office', 'select length(t) from wide')).toEqual([['5000']]);
  });

  it('reads files by their paths or names, and file sets whole', async () => {
    await policy('allow', ['ports.csv', 'tides', 'day=*/tide.csv']);
    expect(await rowsOf('Files', 'select name from "ports.csv" order by code')).toEqual([['Skarn'], ['Ulvey']]);
    expect(
      await rowsOf('Files', 'select day, count(*), max(height) from "tides/day=*/tide.csv" group by day order by day'),
    ).toEqual([
      ['1', '2', '2.1'],
      ['2', '2', '2.2'],
    ]);
    await expect(ask('Files', 'select * from "ports"')).rejects.toMatchObject({ code: 'refused-unknown-table' });
  });

  it('gives what the policies give of any other', async () => {
    await policy('allow', ['guest', 'visit']);
    await policy('protect', ['guest'], { columns: ['mail'], mask: { kind: 'partial', first: 1, last: 0 } });
    await policy('protect', ['guest'], { rows: { column: 'port', values: ['Ulvey'], attribute: null, through: null } });
    await policy('deny', ['guest'], { columns: ['born'] });
    expect(await rowsOf('Office', 'select * from guest order by id')).toEqual([
      ['1', 'Ulvey', 'i•••', '12.5', 't'],
      ['3', 'Ulvey', null, '7.25', 't'],
      ['4', 'Ulvey', 'o•••', null, null],
    ]);
    await expect(ask('Office', 'select born from guest')).rejects.toMatchObject({ code: 'refused-column' });
    await expect(ask('Office', 'select note from diary')).rejects.toMatchObject({ code: 'refused-no-access' });
    for (const sql of [
      'select * from pg_temp.idrel_laid_1',
      'select * from idrel_laid_1',
      'select * from sqlite_master',
      'select * from pg_stats',
      'create temporary table x (a int)',
      "select 1 / (case when mail like 'SECRET%' then 0 else 1 end) from guest",
      'select max(page) from visit v, guest g where g.id = v.guest_id',
    ]) {
      const told = await ask('Office', sql).then(
        (answer) => JSON.stringify(answer),
        (error: Error) => `${error.message} ${JSON.stringify(error)}`,
      );
      expect(told).not.toContain('SECRET');
    }
    // What is left empty of rows that are not theirs is not counted for them.
    expect((await ask('Office', 'select fare from guest')).notes).toEqual([
      expect.stringMatching(/^1 of 3 values of guest\.fare/),
    ]);
  });

  it('tells only groups where that is said, and nothing of what does not fit', async () => {
    await policy('allow', ['guest'], { columns: ['port', 'fare'] });
    await policy('protect', ['guest'], {
      rows: { column: 'id', values: [], attribute: null, through: null, least: 3 },
    });
    expect(await ask('Office', 'select port, sum(fare) from guest group by port')).toEqual({
      rows: [['Ulvey', '19.75']],
      notes: [],
    });
    await expect(ask('Office', 'select port from guest')).rejects.toMatchObject({ code: 'refused-together' });
  });

  it('is refused where a table is too large, agents alone reach the source, or there is no place for it', async () => {
    await policy('allow', ['long', 'guest']);
    await expect(ask('Office', 'select count(*) from long')).rejects.toMatchObject({
      status: 422,
      message: 'long is too large to be read whole for a statement: it has more than 100,000 rows.',
    });
    await expect(ask('Office', 'select 1 from guest', undefined, { ...config, workUrl: null })).rejects.toMatchObject({
      code: 'no-work-database',
    });
    await place.db.run("update source set agent_group = 'Quay' where id = $1", [id('Office')]);
    await expect(ask('Office', 'select 1 from guest')).rejects.toMatchObject({ code: 'agent-only' });
    await place.db.run('update source set agent_group = null where id = $1', [id('Office')]);
  });

  it('leaves nothing where it ran, and finds there nothing of others', async () => {
    await policy('allow', ['guest']);
    const together = await Promise.all(
      Array.from({ length: 6 }, (_, n) => rowsOf('Office', `select count(*) from guest where id > ${n % 4}`)),
    );
    expect(together.map(([row]) => row?.[0])).toEqual(['4', '3', '2', '1', '4', '3']);
    const left = await withClient(urlOf(work), (client) =>
      client.query("select relname from pg_class where relname like 'idrel%'"),
    );
    expect(left.rows).toEqual([]);
  });

  it('reads MariaDB as it reads files', async () => {
    const server = await startMariaDb();
    try {
      await server.admin.query(`
        create database quay character set utf8mb4; use quay;
        create table berth (id int unsigned, harbour varchar(20), held datetime, dues decimal(9, 2), free tinyint(1), note text);
        insert into berth values (1, 'Ulvey', '2026-02-03 10:00:00', 12.50, 1, repeat('x', 3000)), (2, 'SECRETskarn', '2026-03-01 00:00:00', 99, 0, null), (3, 'Ulvey', null, 7.25, 0, 'y');
        create user reader@'%' identified by 'reading'; grant select on quay.* to reader@'%';`);
      const credential = await place.db.one<{ id: string }>(
        "insert into credential (name, username, secret) values ('Quay', 'reader', $1) returning id",
        [encrypt(config.key, 'reading')],
      );
      await scanned('Quay', 'mariadb', { host: '127.0.0.1', port: server.port, database: 'quay' }, credential?.id);
      await policy('allow', ['berth']);
      await policy('protect', ['berth'], {
        rows: { column: 'harbour', values: ['Ulvey'], attribute: null, through: null },
      });
      expect(
        await rowsOf(
          'Quay',
          'select id, extract(month from held), dues, free = 1, length(note) from berth order by id',
        ),
      ).toEqual([
        ['1', '2', '12.50', 't', '3000'],
        ['3', null, '7.25', 'f', '1'],
      ]);
      expect(await rowsOf('Quay', 'select count(*) from public.berth')).toEqual([['2']]);
    } finally {
      await server.stop();
    }
  }, 60_000);

  it('is asked by a share as well, of what that is of', async () => {
    const giver = await personWith(place.db, 'petra@example.org', 'policy administrator', domainId);
    const mailed = { ...config, mail: null, address: null } as Config;
    const lead = { name: 'Ines', email: 'ines@partner.example' };
    const partner = await place.db.transaction((tx) =>
      addPartner(tx, mailed, giver, { name: 'Marrick', note: '', lead }),
    );
    const ines = (await loadWho(place.db, partner.people[0]?.id ?? '')) as Who;
    const offered = await place.db.transaction((tx) =>
      offerShare(tx, giver, {
        partnerId: partner.id,
        name: 'Guests',
        note: '',
        assetIds: [id('guest')],
        columns: ['id', 'mail', 'fare'],
        columnsBut: false,
        masked: { mask: { kind: 'partial', first: 1, last: 0 }, columns: ['mail'], columnsBut: false },
        rows: { column: 'port', values: ['Ulvey'] },
        until: null,
      }),
    );
    const decision = { decision: 'accepted', localName: 'guests', text: '' } as const;
    await place.db.transaction((tx) => answerShare(tx, ines, offered.id, offered.version, decision));
    expect(
      (await sharedTables(place.db, ines, offered.id)).map(({ schema, name, columns }) => [
        schema,
        name,
        columns.map(({ type }) => type),
      ]),
    ).toEqual([['public', 'guest', ['bigint', 'text', 'numeric']]]);
    const share = await shareCalled(place.db, ines, 'guests');
    if (!share) throw new Error('not shared');
    const rows: TextRow[] = [];
    const read = (sql: string) =>
      gatewayFor({ db: place.db, config, log: pino({ level: 'silent' }) }).run(
        ines,
        ines.id,
        share.source,
        sql,
        { rows: 100, bytes: 1e6, seconds: 60 },
        (_: unknown, batch: TextRow[]) => {
          rows.push(...batch);
        },
        new AbortController().signal,
        { share },
      );
    await read('select * from public.guest order by id');
    expect(rows).toEqual([
      ['1', 'i•••', '12.5'],
      ['3', null, '7.25'],
      ['4', 'o•••', null],
    ]);
    await expect(read('select port from guest')).rejects.toMatchObject({ status: 422 });
    await expect(read('select * from visit')).rejects.toMatchObject({ code: 'refused-unknown-table' });
  });

  it('is told with the types that it gives, before it is run', async () => {
    await policy('allow', ['guest']);
    await policy('protect', ['guest'], { columns: ['born'], mask: { kind: 'general', to: 'year', step: null } });
    const shown = await shownTo(place.db, reader, { id: id('Office'), name: 'Office' }, 'reader', { purpose: null });
    expect(
      shown.tables.map(({ schema, name, columns }) => [schema, name, columns.map((one) => `${one.name} ${one.type}`)]),
    ).toEqual([
      ['public', 'guest', ['id bigint', 'port text', 'mail text', 'born text', 'fare numeric', 'ok boolean']],
    ]);
    const gateway = gatewayFor({ db: place.db, config, log: pino({ level: 'silent' }) });
    const { columns } = await gateway.describe(
      reader,
      { id: id('Office'), version: 1 },
      'select id, born, fare from guest',
      { purpose: null },
    );
    expect(columns.map(({ typeId }) => typeId)).toEqual([20, 25, 1700]);
  });
});

it('what fits a type is taken by it', async () => {
  const parts = fc.constantFrom(
    '-',
    '+',
    '.',
    'e',
    'E',
    '0',
    '1',
    '9',
    '2024',
    '02',
    '29',
    ':',
    ' ',
    'T',
    'Z',
    'nan',
    'inf',
    '12',
    '31',
    '23',
    '59',
    '99',
    '\u00e6',
    '',
  );
  const odd = fc.array(parts, { maxLength: 12 }).map((all) => all.join(''));
  const near = fc.oneof(
    fc.double().map(String),
    fc.bigInt({ min: -(2n ** 66n), max: 2n ** 66n }).map(String),
    fc
      .tuple(fc.integer({ min: 0, max: 9999 }), fc.integer({ min: 0, max: 13 }), fc.integer({ min: 0, max: 32 }))
      .map(([y, m, d]) => `${String(y).padStart(4, '0')}-${String(m).padStart(2, '0')}-${String(d).padStart(2, '0')}`),
    fc
      .date({ min: new Date('0001-01-01'), max: new Date('9999-12-31'), noInvalidDate: true })
      .map((at) => at.toISOString()),
    odd,
  );
  const types: LaidType[] = [
    'bigint',
    'numeric',
    'double precision',
    'boolean',
    'date',
    'timestamp without time zone',
    'timestamp with time zone',
    'text',
  ];
  let fitting = 0;
  await withClient(urlOf(work), (client) =>
    fc.assert(
      fc.asyncProperty(
        fc.array(near, { minLength: 20, maxLength: 60 }),
        fc.constantFrom(...types),
        async (values, type) => {
          const fit = values.filter((value) => fitsLaid(type, value));
          fitting += fit.length;
          await client.query(`select v::${type} from unnest($1::text[]) v`, [fit]);
        },
      ),
      { numRuns: 300, endOnFailure: true },
    ),
  );
  expect(fitting).toBeGreaterThan(1000);
});
