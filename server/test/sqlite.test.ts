import { chmodSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { CONNECTORS, type ConnectorInput, keyOf, type Reading } from '@idrel/readers/connectors';
import sqlite from 'node-sqlite3-wasm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { sqliteValueType } from '../../readers/src/connectors/sqlite/structure.ts';

const home = mkdtempSync(join(tmpdir(), 'idrel-crewing-'));
const path = join(home, 'crewing.sqlite');
const input: ConnectorInput = { name: 'Crewing', address: { path }, secret: null };
let reading: Reading;

beforeAll(async () => {
  const database = new sqlite.Database(path);
  database.exec(`
    create table crew_member (id integer primary key, name text not null, email text, born date, pay numeric default 0, photo blob, shout text generated always as (upper(name)) stored);
    create table "rest ""hours""" (member_id int references crew_member (id), hours int) strict;
    create table by_name (name text primary key, note) without rowid;
    create table watch (officer int not null check (officer > 0), begins text, ends text, note text unique check (note in ('calm', 'rough') or note is null), constraint later check (ends > begins or ends is ')'), unique (officer, begins));
    create unique index watch_lower on watch (lower(note)); create unique index watch_ends on watch (ends); create index watch_some on watch (begins) where note is not null;
    create trigger watch_noted after insert on watch begin select 1; end;
    create view reachable as select m.id, upper(m.name) as name, m.email from crew_member m where m.born < '2000-01-01';
    with recursive n(i) as (select 1 union all select i + 1 from n where i < 500) insert into crew_member (name, email, born) select 'Person ' || i, 'p' || i || '@example.org', '1980-02-03' from n;`);
  database.close();
  reading = await CONNECTORS.sqlite.open(input);
});
afterAll(async () => {
  await reading?.close();
  rmSync(home, { recursive: true, force: true });
});

describe('an SQLite source', () => {
  it('passes each step, and writes nothing beside the file', async () => {
    expect((await CONNECTORS.sqlite.test(input)).every((step) => step.state === 'passed')).toBe(true);
    expect(readdirSync(home)).toEqual(['crewing.sqlite']);
  });

  it.each([
    ['a file that is not there', join(home, 'nowhere.sqlite'), 'Resolve'],
    ['a folder', home, 'Resolve'],
    ['a file of another kind', join(home, 'text.txt'), 'Connect'],
  ])('says what is wrong with %s', async (_, where, step) => {
    writeFileSync(join(home, 'text.txt'), 'not a database at all');
    const failed = (await CONNECTORS.sqlite.test({ ...input, address: { path: where } })).find(
      (entry) => entry.state === 'failed',
    );
    rmSync(join(home, 'text.txt'));
    expect(failed?.step).toBe(step);
    expect(failed?.mend).toBeTruthy();
    await expect(CONNECTORS.sqlite.open({ ...input, address: { path: where } })).rejects.toThrow(where);
  });

  it('reads indexes, constraints and triggers, the checks out of the statement of the table', async () => {
    const { assets } = await reading.structure(() => undefined);
    const of = (...names: string[]) => assets.find((asset) => asset.key === keyOf('crewing.sqlite', ...names));
    const details = of('watch')?.native.details as Record<string, { name: string }[]>;
    expect(details.checks).toEqual([
      { name: 'check 1', definition: 'officer > 0', columns: ['officer'] },
      { name: 'check 2', definition: "note in ('calm', 'rough') or note is null", columns: ['note'] },
      { name: 'later', definition: "ends > begins or ends is ')'" },
    ]);
    expect(of('watch', 'note')?.native).toMatchObject({ permitted: ['calm', 'rough'] });
    expect(details.uniques).toMatchObject([{ columns: ['note'] }, { columns: ['officer', 'begins'], unique: true }]);
    expect(details.indexes).toMatchObject([
      {
        name: 'watch_ends',
        columns: ['ends'],
        unique: true,
        definition: 'CREATE UNIQUE INDEX watch_ends on watch (ends)',
      },
      { name: 'watch_lower', columns: ['(expression)'] },
      { name: 'watch_some', columns: ['begins'] },
    ]);
    expect(details.triggers).toMatchObject([{ name: 'watch_noted' }]);
    expect(of('watch', 'note')?.native).toMatchObject({ unique: true });
    expect(of('watch', 'ends')?.native).toMatchObject({ unique: true });
    expect(of('watch', 'begins')?.native).not.toHaveProperty('unique');
    expect(of('crew_member')?.native.details).toEqual({});
  });

  it('reads tables, views, columns and keys', async () => {
    const { assets, sampleable } = await reading.structure(() => undefined);
    const of = (...names: string[]) => assets.find((asset) => asset.key === keyOf('crewing.sqlite', ...names));
    expect(
      assets.filter((asset) => asset.kind !== 'column').map((asset) => [asset.kind, asset.name, asset.stats.rows]),
    ).toEqual([
      ['database', 'crewing.sqlite', undefined],
      ['table', 'by_name', undefined],
      ['table', 'crew_member', 500],
      ['view', 'reachable', undefined],
      ['table', 'rest "hours"', 0],
      ['table', 'watch', 0],
    ]);
    expect(of('crew_member', 'id')?.native).toMatchObject({ type: 'integer', primaryKey: true, nullable: false });
    expect(of('crew_member', 'shout')?.native.generated).toBe(true);
    expect(of('rest "hours"', 'member_id')?.native).toMatchObject({ references: ['crew_member.id'] });
    expect(sampleable.find((table) => table.label === 'crew_member')?.columns.map((column) => column.name)).toEqual([
      'id',
      'name',
      'email',
      'born',
      'pay',
      'shout',
    ]);
  });

  it('samples tables, views, tables without row numbers, and large ones by their numbers', async () => {
    const { sampleable } = await reading.structure(() => undefined);
    const table = (name: string) => {
      const found = sampleable.find((entry) => entry.label === name);
      if (!found) throw new Error(`${name} is missing`);
      return found;
    };
    const small = await reading.sample(table('crew_member'), 40);
    expect(small.values[2]).toHaveLength(40);
    expect(small.values[2]?.every((value) => /^p\d+@example\.org$/.test(value ?? ''))).toBe(true);
    expect((await reading.sample(table('reachable'), 10)).values[0]).toHaveLength(10);
    expect((await reading.sample(table('by_name'), 10)).values).toEqual([[], []]);
    const large = await reading.sample({ ...table('crew_member'), estimatedRows: 500_000 }, 40);
    expect(large.values).toHaveLength(6);
  });

  it('gives the first rows of one table by its names alone, those that are asked for', async () => {
    const rows = (names: string[], columns: string[], only: { column: string; values: string[] }[] = [], most = 3) =>
      reading.rows?.({ names, columns, only, most });
    expect(await rows(['crew_member'], ['name', 'photo', 'id'])).toEqual({
      rows: [
        ['Person 1', null, '1'],
        ['Person 2', null, '2'],
        ['Person 3', null, '3'],
      ],
    });
    expect(await rows(['crew_member'], ['id', 'shout'], [{ column: 'id', values: ['7', "'; drop table x"] }])).toEqual({
      rows: [['7', 'PERSON 7']],
    });
    expect((await rows(['reachable'], ['name'], [], 1))?.rows).toEqual([['PERSON 1']]);
    expect((await rows(['rest "hours"'], ['hours']))?.rows).toEqual([]);
    // A name in double quotes that is no column would be read as a text.
    await expect(rows(['crew_member'], ['gone'])).rejects.toThrow('gone');
    await expect(rows(['nowhere'], ['id'])).rejects.toThrow('nowhere');
  });

  it('traces columns through views', async () => {
    const flows = await reading.flows();
    const short = (key: string) => key.split('\u001f').slice(1).join('.');
    expect(
      flows.flatMap((flow) => flow.edges.map((edge) => [short(edge.from), short(edge.to), edge.kind])).sort(),
    ).toEqual([
      ['crew_member.email', 'reachable.email', 'copied'],
      ['crew_member.id', 'reachable.id', 'copied'],
      ['crew_member.name', 'reachable.name', 'transformed'],
    ]);
  });

  it.each([
    ['BIGINT', 'integer'],
    ['varchar(20)', 'text'],
    ['', 'text'],
    ['BLOB', 'other'],
    ['double precision', 'decimal'],
    ['DATE', 'date'],
  ])('takes %s as %s', (declared, type) => {
    expect(sqliteValueType(declared)).toBe(type);
  });

  it.skipIf(process.getuid?.() === 0)('says which right is missing on the file', async () => {
    chmodSync(path, 0o000);
    const failed = (await CONNECTORS.sqlite.test(input)).find((entry) => entry.state === 'failed');
    chmodSync(path, 0o600);
    expect(failed?.mend).toContain('chmod');
  });
});
