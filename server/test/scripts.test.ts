import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { CONNECTORS } from '@idrel/readers/connectors';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { impactList } from '../src/lineage/impact.ts';
import { lineagePicture } from '../src/lineage/picture.ts';
import { edgesOf } from '../src/lineage/said.ts';
import { statementsOf } from '../src/lineage/statements.ts';
import { executeRun } from '../src/scanning/index.ts';
import { checkReach } from '../src/sources/reach.ts';
import { freshDatabase, postgresSource, refused, staffed, testConfig, urlOf, withClient } from './place.ts';

const system = `scripts_${process.pid}`;
const folder = mkdtempSync(join(tmpdir(), 'idrel-scripts-'));
const config = { ...testConfig(), folderRoots: [folder] };
let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof staffed>>;
let loads: string;
let tables: string;

const put = (name: string, text: string | Buffer) => {
  mkdirSync(dirname(join(folder, 'loads', name)), { recursive: true });
  writeFileSync(join(folder, 'loads', name), text);
};
const scan = async (source: string) => {
  const run = await place.db.one<{ id: string }>(
    'insert into scan_run (source_id, options) values ($1, \'{"sample": false}\') returning id',
    [source],
  );
  await executeRun(place.db, config, run?.id ?? '');
  return place.db.one<{ state: string; counts: object }>('select state, counts from scan_run where id = $1', [
    run?.id ?? '',
  ]);
};
const idOf = async (path: string, top = system) =>
  (
    await place.db.one<{ id: string }>('select id from asset where key = $1', [
      [top, ...path.split('/')].join('\u001f'),
    ])
  )?.id ?? '';
const address = () => {
  const url = new URL(urlOf(system));
  return {
    path: join(folder, 'loads'),
    system: 'postgresql',
    host: url.hostname,
    port: Number(url.port),
    database: system,
    schema: 's',
  };
};
const edges = async () =>
  (
    await place.db.rows<{ told: string }>(
      `select f.name || ' ' || e.line || ': ' || a.name || ' > ' || b.name || ' ' || e.kind as told
       from lineage_edge e
       join flow l on l.id = e.flow_id
       join asset f on f.id = l.asset_id
       join asset a on a.id = e.from_id
       join asset b on b.id = e.to_id
       where l.source_id = $1`,
      [loads],
    )
  )
    .map(({ told }) => told)
    .sort();

beforeAll(async () => {
  place = await freshDatabase();
  home = await staffed(place.db);
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) =>
    client.query(
      'create schema s; create table s.raw (id int, email text, at date); create table s.clean (id int, email text); create table s.month (first date, many int)',
    ),
  );
  put('a/10_clean.sql', "insert into clean\nselect id, lower(email)\nfrom raw\nwhere at > '2026-01-01';\n");
  put(
    'a/20_month.sql',
    'create temp table t as select at, id from raw;\ninsert into month (first, many)\nselect min(at), count(id) from t;\n',
  );
  put('b.sql', 'select 1;\nselec broken;\ninsert into elsewhere.kept select * from nowhere.known;\n');
  put('latin.sql', Buffer.from("update clean set email = 'm\xfcller' || id;\n", 'latin1'));
  put('notes.txt', 'insert into clean select * from raw;');
  symlinkSync('/etc', join(folder, 'loads/outside'));
  loads =
    (
      await place.db.one<{ id: string }>(
        "insert into source (name, kind, address, domain_id) values ('Loads', 'scripts', $1, $2) returning id",
        [JSON.stringify(address()), home.domainId],
      )
    )?.id ?? '';
});
afterAll(async () => {
  await place.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database ${system} with (force)`));
  rmSync(folder, { recursive: true, force: true });
});

describe('a folder of SQL scripts', () => {
  it('is tested step by step, and lies where folders may be', async () => {
    expect(
      (await CONNECTORS.scripts.test({ name: 'Loads', address: address(), secret: null })).map(
        ({ step, state, detail }) => [step, state, detail.includes('4 scripts')],
      ),
    ).toEqual([
      ['Resolve', 'passed', false],
      ['Connect', 'passed', false],
      ['Authenticate', 'passed', false],
      ['Rights to read the catalog', 'passed', false],
      ['Rights to read data', 'passed', true],
    ]);
    expect(await refused(checkReach(config, 'scripts', { ...address(), path: '/etc' }, null))).toMatchObject({
      status: 422,
      detail: expect.stringContaining('outside of the folders'),
    });
    // Nobody connects to the database that it names: whether it may be reached is another matter.
    expect(await checkReach(config, 'scripts', { ...address(), host: '10.0.0.1' }, null)).toMatchObject({
      path: join(folder, 'loads'),
    });
  });

  it('holds flows, whose edges wait for the tables that they name', async () => {
    expect(await scan(loads)).toMatchObject({ state: 'done' });
    const flows = await place.db.rows<{ name: string; kind: string }>(
      'select name, kind from asset where source_id = $1 order by key',
      [loads],
    );
    expect(flows).toEqual([
      { name: 'loads', kind: 'folder' },
      { name: 'a', kind: 'folder' },
      { name: '10_clean.sql', kind: 'flow' },
      { name: '20_month.sql', kind: 'flow' },
      { name: 'b.sql', kind: 'flow' },
      { name: 'latin.sql', kind: 'flow' },
    ]);
    expect(await edges()).toEqual([]);
    tables = await postgresSource(place.db, {
      name: 'Tables',
      domainId: home.domainId,
      database: system,
      key: config.key,
    });
    expect(await scan(tables)).toMatchObject({ state: 'done' });
    // What an INSERT without names of columns means is known only with the tables.
    expect(await edges()).toEqual([
      '10_clean.sql 1: id > id copied',
      '20_month.sql 2: at > first aggregated',
      '20_month.sql 2: id > many aggregated',
      'latin.sql 1: id > email transformed',
    ]);
    expect(await scan(loads)).toMatchObject({ state: 'done' });
    expect(await edges()).toEqual([
      '10_clean.sql 1: email > email transformed',
      '10_clean.sql 1: id > id copied',
      '20_month.sql 2: at > first aggregated',
      '20_month.sql 2: id > many aggregated',
      'latin.sql 1: id > email transformed',
    ]);
  });

  it('is followed from table to table, through the script and with what decides the rows', async () => {
    const picture = await lineagePicture(place.db, home.reader, await idOf('s/raw'), { upstream: 1, downstream: 1 });
    expect(picture.flows.map(({ name, statement }) => [name, statement?.split('\n')[0]])).toEqual([
      ['10_clean.sql', 'insert into clean'],
      ['20_month.sql', 'create temp table t as select at, id from raw;'],
    ]);
    expect(
      picture.influences
        .map(({ from, toTable, kind }) => [from, toTable, kind])
        .filter(([, , kind]) => kind === 'filter'),
    ).toEqual([[await idOf('s/raw/at'), await idOf('s/clean'), 'filter']]);
    const impact = await impactList(place.db, home.reader, await idOf('s/raw/email'), 'downstream');
    expect(impact.map(({ path }) => path)).toEqual(['s.clean.email']);
    const { items } = await edgesOf(place.db, home.reader, await idOf('s/clean/id'), 'upstream', {
      ended: false,
      limit: 10,
    });
    expect(items.map(({ origin, flow, line }) => [origin, flow?.name, line])).toEqual([['script', '10_clean.sql', 1]]);
  });

  it('says of each statement that is not understood where it stands', async () => {
    const told = await statementsOf(place.db, home.reader, loads, { lost: false, offset: 0, limit: 20 });
    expect(told.items.map(({ asset, line, lost, reason }) => [asset.path, line, lost, reason])).toEqual([
      ['loads/b.sql', 2, true, 'syntax error at or near "selec" (at character 1)'],
      ['loads/b.sql', 3, false, 'the columns of elsewhere.kept are not known: those of the query are taken'],
      [
        'loads/b.sql',
        3,
        false,
        'the columns of nowhere.known are not known, so * cannot be expanded: give its definition',
      ],
    ]);
    expect(told).toMatchObject({ flows: 4, lost: 1 });
  });

  it('follows its scripts: what one no longer does is no edge, and one that is gone takes its edges along', async () => {
    put('a/10_clean.sql', 'insert into clean (email) select email from raw;');
    rmSync(join(folder, 'loads/a/20_month.sql'));
    const before = await place.db.one<{ n: number }>(
      'select count(*)::int as n from lineage_influence i join flow f on f.id = i.flow_id where f.source_id = $1',
      [loads],
    );
    expect(await scan(loads)).toMatchObject({ state: 'done' });
    expect(await edges()).toEqual(['10_clean.sql 1: email > email copied', 'latin.sql 1: id > email transformed']);
    const after = await place.db.one<{ n: number }>(
      'select count(*)::int as n from lineage_influence i join flow f on f.id = i.flow_id where f.source_id = $1',
      [loads],
    );
    expect([before?.n, after?.n]).toEqual([1, 0]);
    // A scan of the tables alone leaves what the scripts say.
    expect(await scan(tables)).toMatchObject({ state: 'done' });
    expect(await edges()).toHaveLength(2);
  });

  it('is read for MariaDB by its own rules', async () => {
    const reading = await CONNECTORS.scripts
      .open({
        name: 'x',
        secret: null,
        address: { ...address(), system: 'mariadb', port: 3306, path: join(folder, 'maria') },
        relations: [
          { schema: '', name: 'crew', columns: ['id', 'name'] },
          { schema: '', name: 'roster', columns: ['crew_id', 'label'] },
        ],
      })
      .catch((error: Error) => error);
    expect(reading).toMatchObject({ message: expect.stringContaining('does not exist') });
    mkdirSync(join(folder, 'maria'));
    writeFileSync(
      join(folder, 'maria/one.sql'),
      'REPLACE INTO `roster` (`crew_id`, label) SELECT `id`, CONCAT(name, "!") FROM crew;',
    );
    const opened = await CONNECTORS.scripts.open({
      name: 'x',
      secret: null,
      address: { ...address(), system: 'mariadb', port: 3306, path: join(folder, 'maria') },
      relations: [
        { schema: '', name: 'crew', columns: ['id', 'name'] },
        { schema: '', name: 'roster', columns: ['crew_id', 'label'] },
      ],
    });
    const [flow] = await opened.flows();
    await opened.close();
    expect(flow?.problems).toEqual([]);
    expect(flow?.remote?.map(({ from, to, kind }) => [from, to, kind])).toEqual([
      [
        { place: expect.stringContaining('mariadb://'), names: ['crew'], column: 'id' },
        { place: expect.stringContaining('mariadb://'), names: ['roster'], column: 'crew_id' },
        'copied',
      ],
      [
        { place: expect.stringContaining('mariadb://'), names: ['crew'], column: 'name' },
        { place: expect.stringContaining('mariadb://'), names: ['roster'], column: 'label' },
        'transformed',
      ],
    ]);
  });
});
