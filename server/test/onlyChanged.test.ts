import { mkdtempSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sqlite from 'node-sqlite3-wasm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { executeRun } from '../src/scanning/index.ts';
import { freshDatabase, furnish, postgresSource, testConfig, urlOf, withClient } from './place.ts';

const system = `marks_${process.pid}`;
const config = testConfig();
const folder = mkdtempSync(join(tmpdir(), 'idrel-marks-'));
let place: Awaited<ReturnType<typeof freshDatabase>>;
let domainId: string;
let source: string;

async function run(sourceId: string, options: Record<string, unknown>) {
  const row = await place.db.one<{ id: string }>(
    'insert into scan_run (source_id, options) values ($1, $2) returning id',
    [sourceId, JSON.stringify({ rows: 50, ...options })],
  );
  await executeRun(place.db, config, row?.id ?? '');
  const ended = await place.db.one<{
    state: string;
    problem: unknown;
    counts: { objects: number; unchanged?: number; sampled?: number };
    comparison: { counts: { new: number; changed: number; gone: number; back: number } };
  }>('select state, problem, counts, comparison from scan_run where id = $1', [row?.id]);
  if (ended?.state !== 'done') throw new Error(`the run ended as ${ended?.state}: ${JSON.stringify(ended?.problem)}`);
  return { ...ended.counts, found: ended.comparison.counts };
}
const NOTHING = { new: 0, changed: 0, gone: 0, back: 0 };
const onSystem = (sql: string) => withClient(urlOf(system), (client) => client.query(sql));
const register = async (kind: string, address: object) =>
  (
    await place.db.one<{ id: string }>(
      'insert into source (name, kind, address, domain_id) values ($1, $1, $2, $3) returning id',
      [kind, JSON.stringify(address), domainId],
    )
  )?.id ?? '';

beforeAll(async () => {
  place = await freshDatabase();
  ({ domainId } = await furnish(place.db));
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await onSystem(`
    create type mood as enum ('calm', 'rough'); create sequence counter; create schema other;
    create table port (id int primary key, name text not null, mood mood default 'calm');
    create table sailing (id int primary key default nextval('counter'), port_id int references port (id), at date, note varchar(20));
    -- What counts rows by itself would be a change that no test made.
    create table other.log (line text) with (autovacuum_enabled = false); create table other.empty ();
    create table part (day date, n int) partition by range (day); create table part_1 partition of part for values from ('2026-01-01') to ('2027-01-01');
    create view busy as select p.name, count(*) as n from sailing s join port p on p.id = s.port_id group by 1;
    insert into other.log select 'p' || n || '@example.org' from generate_series(1, 60) n`);
  source = await postgresSource(place.db, { name: 'Marked', domainId, database: system, key: config.key });
});
afterAll(async () => {
  await place?.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
  rmSync(folder, { recursive: true, force: true });
});

describe('a run of only what has changed', () => {
  it('leaves out what has the marks of the last one, and takes nothing of it for gone', async () => {
    expect(await run(source, { sample: false, onlyChanged: true })).toMatchObject({ unchanged: 0 });
    const [{ n } = { n: 0 }] = await place.db.rows<{ n: number }>(
      'select count(*)::int as n from asset where source_id = $1',
      [source],
    );
    expect(await run(source, { sample: false, onlyChanged: true })).toMatchObject({
      unchanged: 8,
      objects: 3,
      found: NOTHING,
    });
    const [after] = await place.db.rows<{ n: number }>(
      'select count(*)::int as n from asset where source_id = $1 and gone_at is null',
      [source],
    );
    expect(after?.n).toBe(n);
  });

  // Whatever changes at the source: a whole run after one of only what has changed must find nothing more.
  it.each([
    ['a new column', 'alter table port add harbour text'],
    ['a column dropped', 'alter table port drop harbour'],
    ['a column of another name', 'alter table port rename name to title'],
    ['a column of another type', 'alter table sailing alter note type text'],
    ['a column that must have a value', 'alter table sailing alter at set not null'],
    ['a default', 'alter table sailing alter at set default current_date'],
    ['a default gone', 'alter table sailing alter at drop default'],
    ['a sequence of another name, in a default', 'alter sequence counter rename to tally'],
    ['a comment on a column', "comment on column sailing.at is 'day'"],
    ['a comment on a table', "comment on table sailing is 'trips'"],
    ['a comment gone', 'comment on column sailing.at is null'],
    ['a key that refers', 'alter table other.log add port_id int references port'],
    ['a column that others refer to, of another name', 'alter table port rename id to number'],
    ['a key gone', 'alter table other.log drop constraint log_port_id_fkey'],
    ['a unique key', 'alter table port add unique (title)'],
    ['a type of another name', 'alter type mood rename to weather'],
    ['a type in another schema', 'alter type weather set schema other'],
    [
      'another definition of a view',
      'create or replace view busy as select p.title as name, count(*) + 1 as n from sailing s join port p on p.number = s.port_id group by 1',
    ],
    ['a new part', "create table part_2 partition of part for values from ('2027-01-01') to ('2028-01-01')"],
    ['a generated column', 'alter table sailing add twice int generated always as (port_id * 2) stored'],
    ['a table of another name', 'alter table other.empty rename to void'],
    ['a table in another schema', 'alter table other.void set schema public'],
    ['a schema of another name', 'alter schema other rename to apart'],
    [
      'rows that somebody counted',
      "insert into apart.log select 'q' || n || '@example.org' from generate_series(1, 500) n; analyze apart.log",
    ],
    ['an index', 'create index sailing_at on sailing (at)'],
    ['an index gone', 'drop index sailing_at'],
    ['a check', "alter table sailing add constraint late check (at > date '2000-01-01')"],
    [
      'a trigger',
      'create trigger still before update on sailing for each row execute function suppress_redundant_updates_trigger()',
    ],
    ['a trigger switched off', 'alter table sailing disable trigger still'],
    ['a rule', 'create rule stay as on delete to sailing do instead nothing'],
    ['a value of an enumeration', "alter type apart.weather add value 'storm'"],
    ['a comment on a type', "comment on type apart.weather is 'At noon'"],
    ['a sequence that counts otherwise', 'alter sequence tally increment by 2'],
    ['a table made anew', 'drop table void; create table void (a int)'],
    ['a table gone', 'drop table void'],
  ])('finds %s', async (_, sql) => {
    await onSystem(sql);
    const changed = await run(source, { sample: false, onlyChanged: true });
    expect(changed.unchanged).toBeLessThan(8);
    expect((await run(source, { sample: false })).found).toEqual(NOTHING);
    await run(source, { sample: false, onlyChanged: true }); // a whole run takes marks away from what it wrote
    expect((await run(source, { sample: false, onlyChanged: true })).objects).toBe(3);
  });

  it('samples again only what was written to', async () => {
    const tables = await run(source, { onlyChanged: true });
    expect(tables.sampled).toBeGreaterThan(3);
    const views = await run(source, { onlyChanged: true });
    expect(views.sampled).toBe(2); // a view and a partitioned table say nothing of their rows
    const findings =
      "select a.name, f.class_key from finding f join asset a on a.id = f.asset_id where a.source_id = $1 and a.name = 'line'";
    expect(await place.db.rows(findings, [source])).toEqual([{ name: 'line', class_key: 'email' }]);
    await onSystem("insert into port values (7, 'Ulvey', 'calm')");
    await expect.poll(async () => (await run(source, { onlyChanged: true })).sampled, { interval: 500 }).toBe(3);
    expect((await run(source, { onlyChanged: true, rows: 60 })).sampled).toBe(tables.sampled); // looked at in another way
    expect(await place.db.rows(findings, [source])).toHaveLength(1);
  });

  it('knows files by size and time', async () => {
    const id = await register('folder', { path: folder });
    writeFileSync(join(folder, 'a.csv'), 'x,y\n1,2\n');
    writeFileSync(join(folder, 'b.csv'), 'x,y\n1,2\n');
    for (let part = 0; part < 4; part += 1) writeFileSync(join(folder, `day-2026-01-0${part + 1}.ndjson`), '{"a":1}\n');
    expect(await run(id, { onlyChanged: true })).toMatchObject({ unchanged: 0 });
    const known = await run(id, { onlyChanged: true });
    expect(known).toMatchObject({ objects: 1, found: NOTHING });
    writeFileSync(join(folder, 'a.csv'), 'x,z\n1,2\n');
    utimesSync(join(folder, 'a.csv'), new Date(), new Date(Date.now() + 5000));
    expect(await run(id, { onlyChanged: true })).toMatchObject({
      objects: 2,
      unchanged: (known.unchanged ?? 0) - 1,
      found: { new: 1, changed: 0, gone: 1, back: 0 },
    });
    rmSync(join(folder, 'b.csv'));
    expect((await run(id, { onlyChanged: true })).found.gone).toBe(3);
    expect((await run(id, {})).found).toEqual(NOTHING);
  });

  it('knows tables of an SQLite file by its size and time', async () => {
    const path = join(folder, 'crew.sqlite');
    const write = (sql: string) => {
      const database = new sqlite.Database(path);
      database.exec(sql);
      database.close();
    };
    write(
      "create table crew (name text); create table ship (name text); create view all_crew as select * from crew; insert into crew values ('Ulla')",
    );
    const id = await register('sqlite', { path });
    await run(id, { onlyChanged: true });
    expect(await run(id, { onlyChanged: true })).toMatchObject({ unchanged: 2, sampled: 1 });
    write('alter table ship add built int');
    utimesSync(path, new Date(), new Date(Date.now() + 5000));
    expect((await run(id, { onlyChanged: true, sample: false })).found).toEqual({ ...NOTHING, new: 1 });
    expect((await run(id, { onlyChanged: true, sample: false })).unchanged).toBe(3);
  });
});
