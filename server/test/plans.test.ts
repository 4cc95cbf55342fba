import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { RunComparison } from '@idrel/contract/scanning';
import type { Scope } from '@idrel/core/scanning';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { loadWho, type Who } from '../src/people/index.ts';
import { executeRun, startDuePlans } from '../src/scanning/index.ts';
import { changePlan, leaveOut } from '../src/scanning/plans.ts';
import { SAID_OF_ASSETS, settleRename } from '../src/scanning/renames.ts';
import { scanNews } from '../src/worklist/index.ts';
import { addPolicy, freshDatabase, furnish, postgresSource, testConfig, urlOf, withClient } from './place.ts';

const system = `planned_${process.pid}`;
const config = testConfig();
let place: Awaited<ReturnType<typeof freshDatabase>>;
let sourceId: string;
let who: Who;

beforeAll(async () => {
  place = await freshDatabase();
  const { domainId } = await furnish(place.db);
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) =>
    client.query(`create schema one; create schema two;
      create table one.a (id int, email text); create view one.a_view as select email from one.a; create table one.tmp_b (x int);
      create table two.c (y int); create view two.c_view as select y from two.c`),
  );
  sourceId = await postgresSource(place.db, { name: 'Planned', domainId, database: system, key: config.key });
});
afterAll(async () => {
  await place.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
});

const run = async (scope?: Partial<Scope>) => {
  const full = scope && { cover: 'chosen', chosen: [], include: [], exclude: [], ...scope };
  const [row] = await place.db.rows<{ id: string }>(
    'insert into scan_run (source_id, options) values ($1, $2) returning id',
    [sourceId, JSON.stringify({ sample: false, scope: full })],
  );
  await executeRun(place.db, config, row?.id ?? '');
  const ended = await place.db.one<{
    state: string;
    problem: unknown;
    comparison: { counts: { gone: number; new: number } };
    not_covered: { count: number; paths: string[] } | null;
  }>('select state, problem, comparison, not_covered from scan_run where id = $1', [row?.id]);
  if (ended?.state !== 'done') throw new Error(JSON.stringify(ended));
  return ended;
};
const here = async () =>
  (
    await place.db.rows<{ path: string }>(
      "select replace(key, chr(31), '.') as path from asset where gone_at is null and kind not in ('column', 'database', 'schema') order by 1",
    )
  ).map((row) => row.path.slice(system.length + 1));
const flows = async () =>
  (await place.db.rows<{ name: string }>('select a.name from flow f join asset a on a.id = f.asset_id order by 1')).map(
    (row) => row.name,
  );

beforeAll(async () => {
  const [person] = await place.db.rows<{ id: string }>('select id from person');
  who = (await loadWho(place.db, person?.id ?? '')) as Who;
});

describe('the scope of a run', () => {
  it('reads what it covers, and tells what it leaves out', async () => {
    const ended = await run({ chosen: ['one'], exclude: ['one.tmp_*'] });
    expect(await here()).toEqual(['one.a', 'one.a_view']);
    // The schema public is there in every database.
    expect(ended.not_covered).toEqual({
      count: 5,
      paths: expect.arrayContaining(['two', 'two.c', 'two.c_view', 'one.tmp_b', 'public']),
    });
    expect(await flows()).toEqual(['a_view']);
  });

  it('takes nothing as gone that it did not look for, nor its lineage', async () => {
    const ended = await run({ include: ['two*'] });
    expect(ended.comparison.counts.gone).toBe(0);
    expect(await here()).toEqual(['one.a', 'one.a_view', 'two.c', 'two.c_view']);
    expect(await flows()).toEqual(['a_view', 'c_view']);
  });

  it('marks what it looked for and did not find', async () => {
    await withClient(urlOf(system), (client) => client.query('drop view two.c_view'));
    expect((await run({ chosen: ['two'] })).comparison.counts.gone).toBe(2); // the view and its column
    expect(await here()).toEqual(['one.a', 'one.a_view', 'two.c']);
    expect(await flows()).toEqual(['a_view']);
  });

  it('covers what comes later when it covers everything', async () => {
    await withClient(urlOf(system), (client) => client.query('create table two.later (z int)'));
    expect((await run({ chosen: ['one'] })).not_covered?.paths).toContain('two.later');
    expect(await here()).not.toContain('two.later');
    expect((await run()).not_covered).toBeNull();
    expect(await here()).toContain('two.later');
  });
});

describe('a likely rename', () => {
  it('loses nothing that a table says of assets', async () => {
    // Every reference to an asset, and every other column that is called after one.
    const named = await place.db.rows<{ place: string }>(
      `select c.conrelid::regclass || '.' || a.attname as place
       from pg_constraint c
       join pg_attribute a on a.attrelid = c.conrelid and a.attnum = any(c.conkey)
       where c.contype = 'f' and c.confrelid = 'asset'::regclass
       union
       select c.relname || '.' || a.attname
       from pg_class c
       join pg_attribute a on a.attrelid = c.oid
       where c.relkind = 'r' and c.relnamespace = 'public'::regnamespace and a.attname ~ '(^|_)asset_ids?$'
       order by 1`,
    );
    expect(named.map(({ place: column }) => column)).toEqual(Object.keys(SAID_OF_ASSETS).sort());
  });

  const asset = (path: string) =>
    place.db.one<{ id: string; name: string; description: string | null; gone: boolean; parent: string }>(
      "select a.id, a.name, a.description, a.gone_at is not null as gone, a.parent_id as parent from asset a where a.key = replace($1, '.', chr(31))",
      [`${system}.${path}`],
    );
  const lastRun = async () =>
    (await place.db.one<{ id: string; comparison: RunComparison }>(
      'select id, comparison from scan_run order by asked_at desc limit 1',
    )) as { id: string; comparison: RunComparison };
  const news = () => scanNews(place.db, who.domainsAs('source administrator'));
  beforeAll(async () => {
    await run();
    const [table, column] = [await asset('one.a'), await asset('one.a.email')];
    await place.db.run("update asset set description = 'Everybody' where id = $1", [table?.id]);
    await place.db.run("update asset set description = 'Where to write to' where id = $1", [column?.id]);
    await addPolicy(place.db, { name: 'p', everyone: true, assetIds: [table?.id ?? ''] });
    await withClient(urlOf(system), (client) =>
      client.query(
        'alter table one.a add column since date, add column town text; alter table one.a rename to a_now; alter table one.a_now rename column email to email_address; alter table two.c rename column y to y_now',
      ),
    );
  });

  it('is offered with what speaks for it, and nothing is done yet', async () => {
    const before = await asset('one.a');
    await run();
    const { renames } = (await lastRun()).comparison;
    expect(renames?.map((rename) => [rename.from.path, rename.to.path])).toEqual([
      [`${system}.two.c.y`, `${system}.two.c.y_now`],
    ]);
    expect(await news()).toEqual([
      expect.objectContaining({
        source: 'Planned',
        renames: [{ from: `${system}.two.c.y`, to: `${system}.two.c.y_now` }],
        uncovered: [],
      }),
    ]);
    expect(renames?.[0]?.why).toEqual(
      expect.arrayContaining(['the same type, integer', 'the same place in the table']),
    );
    expect(before?.id).toBe((await asset('one.a'))?.id);
    // Half of the columns of one.a are other ones now: too little in common to claim that it is one.a_now.
    expect((await asset('one.a'))?.gone).toBe(true);
  });

  it('moves what people wrote along when somebody says that they are the same', async () => {
    await withClient(urlOf(system), (client) =>
      client.query('alter table one.a_now rename to a; alter table one.a rename column email_address to email'),
    );
    await run();
    await withClient(urlOf(system), (client) => client.query('alter table one.a rename to a_later'));
    await run();
    const { id, comparison } = await lastRun();
    const rename = comparison.renames?.find((entry) => entry.from.path.endsWith('one.a'));
    expect(rename?.to.path).toBe(`${system}.one.a_later`);
    const [old, column] = [await asset('one.a'), await asset('one.a.email')];
    // What its source told of the new one comes along; what only the old one has stays.
    const facts = (rows: number) => JSON.stringify({ rows });
    await place.db.run(
      'insert into column_profile (asset_id, run_id, facts) values ($1, $4, $5), ($2, $4, $6), ($3, $4, $7)',
      [(await asset('one.a_later.email'))?.id, column?.id, old?.id, id, facts(2), facts(1), facts(9)],
    );
    // What happened to either stands of both, the same once.
    await place.db.run(
      "insert into class_hold (asset_id, class_key) values ($1, 'of both'), ($2, 'of both'), ($2, 'of the new')",
      [column?.id, (await asset('one.a_later.email'))?.id],
    );
    const after = await place.db.transaction((tx) =>
      settleRename(tx, who, id, { from: rename?.from.id ?? '', to: rename?.to.id ?? '', same: true }),
    );
    expect(after.comparison?.renames?.find((entry) => entry.from.id === old?.id)?.settled).toBe('same');
    expect(await asset('one.a_later')).toMatchObject({ id: old?.id, description: 'Everybody', gone: false });
    expect(await asset('one.a_later.email')).toMatchObject({
      id: column?.id,
      description: 'Where to write to',
      gone: false,
      parent: old?.id,
    });
    expect(
      await place.db.rows(
        "select class_key as held from class_hold where asset_id = $1 and class_key ~ '^of ' order by 1",
        [column?.id],
      ),
    ).toEqual([{ held: 'of both' }, { held: 'of the new' }]);
    const profile = (of: string | undefined) =>
      place.db.one('select facts from column_profile where asset_id = $1', [of]);
    expect(await profile(column?.id)).toEqual({ facts: { rows: 2 } });
    expect(await profile(old?.id)).toEqual({ facts: { rows: 9 } });
    expect(await asset('one.a')).toBeUndefined();
    expect(await place.db.rows('select asset_id as id from policy_object')).toEqual([{ id: old?.id }]);
    // The view still takes its value from the column, which is the old one under its new place.
    expect(await place.db.one('select count(*)::int as n from lineage_edge where from_id = $1', [column?.id])).toEqual({
      n: 1,
    });
    const again = await run();
    expect(again.comparison.counts).toMatchObject({ new: 0, changed: 0, gone: 0 });
    await expect(
      place.db.transaction((tx) =>
        settleRename(tx, who, id, { from: old?.id ?? '', to: rename?.to.id ?? '', same: true }),
      ),
    ).rejects.toThrow('settled already');
  });

  it('is refused when the new one has been documented meanwhile, and both stay', async () => {
    await withClient(urlOf(system), (client) => client.query('alter table one.a_later rename to a_third'));
    await run();
    const { id, comparison } = await lastRun();
    const rename = comparison.renames?.[0];
    await place.db.run("update asset set description = 'Somebody was quicker' where id = $1", [rename?.to.id]);
    const settle = (same: boolean) =>
      place.db.transaction((tx) =>
        settleRename(tx, who, id, { from: rename?.from.id ?? '', to: rename?.to.id ?? '', same }),
      );
    await expect(settle(true)).rejects.toThrow('documented');
    // A decision on a finding is something that a person wrote as well.
    await place.db.run('update asset set description = null where id = $1', [rename?.to.id]);
    await place.db.run(
      "insert into finding_decision (asset_id, class_key, decision, decided_by) select id, 'email', 'dismissed', $2 from asset where id = $1",
      [rename?.to.id, who.id],
    );
    await expect(settle(true)).rejects.toThrow('documented');
    await place.db.run('delete from finding_decision');
    await place.db.run("update asset set description = 'Somebody was quicker' where id = $1", [rename?.to.id]);
    const renames = async () =>
      (await news()).flatMap((item) => item.renames.map((entry) => entry.to.slice(system.length + 1)));
    // The rename that nobody settled waits still, however many runs came since.
    expect(await renames()).toEqual(['two.c.y_now', 'one.a_third']);
    await settle(false);
    expect((await lastRun()).comparison.renames?.[0]?.settled).toBe('different');
    expect(await renames()).toEqual(['two.c.y_now']);
    await withClient(urlOf(system), (client) => client.query('alter table two.c rename column y_now to y'));
    await run();
    expect(await renames()).toEqual([]);
    expect(await asset('one.a_third')).toMatchObject({ description: 'Somebody was quicker' });
    expect(await asset('one.a_later')).toMatchObject({ description: 'Everybody', gone: true });
  });
});

describe('new objects that a plan does not cover', () => {
  it('wait on the worklist until somebody leaves them out or covers them', async () => {
    await place.db.run('delete from scan_run');
    const scope = { cover: 'chosen' as const, chosen: ['one'], include: [], exclude: [] };
    const [plan] = await place.db.rows<{ id: string; domain: string }>(
      "insert into scan_plan (source_id, name, scope) values ($1, 'Only one', $2) returning id, (select domain_id from source where id = $1) as domain",
      [sourceId, JSON.stringify(scope)],
    );
    const scoped = async () => {
      const [row] = await place.db.rows<{ id: string }>(
        'insert into scan_run (source_id, plan_id, options) values ($1, $2, $3) returning id',
        [sourceId, plan?.id, JSON.stringify({ sample: false, scope })],
      );
      await executeRun(place.db, config, row?.id ?? '');
      return (await scanNews(place.db, [plan?.domain ?? ''])).map((item) => [item.plan, item.uncovered]);
    };
    expect(await scoped()).toEqual([]);
    await withClient(urlOf(system), (client) => client.query('create table two.brand_new (z int)'));
    expect(await scoped()).toEqual([['Only one', ['two.brand_new']]]);
    expect(await scanNews(place.db, [])).toEqual([]);
    expect(await scoped()).toEqual([['Only one', ['two.brand_new']]]);
    const leave = (out: boolean) =>
      place.db.transaction((tx) => leaveOut(tx, who, plan?.id ?? '', ['two.brand_new', 'two.never_there'], out));
    await leave(true);
    expect(await scoped()).toEqual([]);
    await leave(false);
    expect(await scoped()).toEqual([['Only one', ['two.brand_new']]]);
    // A change of scope was made by somebody who saw what it covers.
    await changePlan(place.db as never, who, plan?.id ?? '', 1, { scope: { ...scope, exclude: ['one.z*'] } });
    expect((await scanNews(place.db, [plan?.domain ?? ''])).map((item) => item.uncovered)).toEqual([]);
  });
});

describe('a plan of some kinds of files', () => {
  it('reads these, lists what has no columns, and takes nothing else as gone', async () => {
    const root = mkdtempSync(join(tmpdir(), 'idrel-kinds-'));
    try {
      for (const [name, text] of [
        ['a.csv', 'id,name\n1,x\n'],
        ['b.ndjson', '{"id":1}\n'],
        ['c.json', '[{"id":1}]'],
        ['picture.png', 'x'],
      ] as const)
        writeFileSync(join(root, name), text);
      const [source] = await place.db.rows<{ id: string }>(
        "insert into source (name, kind, address, domain_id) select 'Kinds', 'folder', $1, id from domain limit 1 returning id",
        [JSON.stringify({ path: root })],
      );
      const there = async (fileKinds: string[] | null) => {
        const [row] = await place.db.rows<{ id: string }>(
          'insert into scan_run (source_id, options) values ($1, $2) returning id',
          [source?.id, JSON.stringify({ sample: false, fileKinds })],
        );
        await executeRun(place.db, config, row?.id ?? '');
        return (
          await place.db.rows<{ name: string }>(
            "select name from asset where source_id = $1 and gone_at is null and kind <> 'folder' order by 1",
            [source?.id],
          )
        ).map(({ name }) => name);
      };
      expect(await there(['csv', 'json'])).toEqual(['a.csv', 'c.json', 'id', 'id', 'name', 'picture.png']);
      expect(await there(null)).toEqual(['a.csv', 'b.ndjson', 'c.json', 'id', 'id', 'id', 'name', 'picture.png']);
      for (const name of ['b.ndjson', 'c.json']) rmSync(join(root, name));
      expect(await there(['csv', 'json'])).toEqual(['a.csv', 'b.ndjson', 'id', 'id', 'name', 'picture.png']);
      expect(await there(null)).toEqual(['a.csv', 'id', 'name', 'picture.png']);
    } finally {
      rmSync(root, { recursive: true });
    }
  });
});

describe('plans that are due', () => {
  const schedule = { rhythm: { on: 'daily' }, time: '03:00', timeZone: 'UTC' };
  const scope = { cover: 'everything', chosen: [], include: [], exclude: [] };
  const now = new Date('2026-05-10T12:00:00Z');
  const runs = () =>
    place.db.rows<{ state: string; by: string | null; plan: string }>(
      'select state, asked_by as by, plan_id as plan from scan_run where plan_id is not null',
    );
  const nextAt = async () =>
    (await place.db.rows<{ at: Date }>('select next_at as at from scan_plan'))[0]?.at.toISOString();
  beforeEach(async () => {
    await place.db.run('delete from scan_run');
    await place.db.run('delete from scan_plan');
    await place.db.run(
      'insert into scan_plan (source_id, name, scope, options, schedule, next_at) values ($1, $2, $3, $4, $5, $6)',
      [
        sourceId,
        'Nightly',
        JSON.stringify(scope),
        JSON.stringify({ sample: false, rows: 500 }),
        JSON.stringify(schedule),
        '2026-05-07T03:00:00Z', // three times were missed
      ],
    );
  });
  const start = () => place.db.transaction((tx) => startDuePlans(tx, now));

  it('are made up once, and go on from now', async () => {
    expect(await start()).toBe(1);
    expect(await runs()).toEqual([expect.objectContaining({ state: 'waiting', by: null })]);
    expect(await nextAt()).toBe('2026-05-11T03:00:00.000Z');
    expect(await start()).toBe(0);
  });

  it('wait while the source is being scanned', async () => {
    await place.db.run('insert into scan_run (source_id) values ($1)', [sourceId]);
    expect(await start()).toBe(0);
    expect(await nextAt()).toBe('2026-05-07T03:00:00.000Z');
    await place.db.run("update scan_run set state = 'cancelled', ended_at = now()");
    expect(await start()).toBe(1);
  });

  it('are started by one of several workers', async () => {
    const started = await Promise.all([start(), start(), start(), start()]);
    expect(started.reduce((sum, count) => sum + count, 0)).toBe(1);
    expect(await runs()).toHaveLength(1);
  });

  it('rest while they are paused', async () => {
    await place.db.run('update scan_plan set enabled = false');
    expect(await start()).toBe(0);
  });
});
