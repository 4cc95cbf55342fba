import { randomBytes } from 'node:crypto';
import type { Scope } from '@idrel/core/scanning';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Config } from '../src/platform/config.ts';
import { encrypt } from '../src/platform/secrets.ts';
import { executeRun, startDuePlans } from '../src/scanning/index.ts';
import { freshDatabase, furnish, urlOf, withClient } from './place.ts';

const system = `planned_${process.pid}`;
const config = { key: randomBytes(32) } as Config;
let place: Awaited<ReturnType<typeof freshDatabase>>;
let sourceId: string;

beforeAll(async () => {
  place = await freshDatabase();
  const { domainId } = await furnish(place.db);
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) =>
    client.query(`create schema one; create schema two;
      create table one.a (id int, email text); create view one.a_view as select email from one.a; create table one.tmp_b (x int);
      create table two.c (y int); create view two.c_view as select y from two.c`),
  );
  const url = new URL(urlOf('postgres'));
  const [credential] = await place.db.rows<{ id: string }>('insert into credential (name, username, secret) values ($1, $2, $3) returning id', [
    'c',
    url.username,
    encrypt(config.key, decodeURIComponent(url.password)),
  ]);
  const [source] = await place.db.rows<{ id: string }>("insert into source (name, kind, address, domain_id, credential_id) values ('Planned', 'postgresql', $1, $2, $3) returning id", [
    JSON.stringify({ host: url.hostname, port: Number(url.port), database: system }),
    domainId,
    credential?.id,
  ]);
  sourceId = source?.id ?? '';
});
afterAll(async () => {
  await place.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
});

const run = async (scope?: Partial<Scope>) => {
  const full = scope && { cover: 'chosen', chosen: [], include: [], exclude: [], ...scope };
  const [row] = await place.db.rows<{ id: string }>('insert into scan_run (source_id, options) values ($1, $2) returning id', [sourceId, JSON.stringify({ sample: false, scope: full })]);
  await executeRun(place.db, config, row?.id ?? '');
  const ended = await place.db.one<{ state: string; problem: unknown; comparison: { counts: { gone: number; new: number } }; not_covered: { count: number; paths: string[] } | null }>(
    'select state, problem, comparison, not_covered from scan_run where id = $1',
    [row?.id],
  );
  if (ended?.state !== 'done') throw new Error(JSON.stringify(ended));
  return ended;
};
const here = async () =>
  (await place.db.rows<{ path: string }>("select replace(key, chr(31), '.') as path from asset where gone_at is null and kind not in ('column', 'database', 'schema') order by 1")).map((row) =>
    row.path.slice(system.length + 1),
  );
const flows = async () => (await place.db.rows<{ name: string }>('select a.name from flow f join asset a on a.id = f.asset_id order by 1')).map((row) => row.name);

describe('the scope of a run', () => {
  it('reads what it covers, and tells what it leaves out', async () => {
    const ended = await run({ chosen: ['one'], exclude: ['one.tmp_*'] });
    expect(await here()).toEqual(['one.a', 'one.a_view']);
    // The schema public is there in every database.
    expect(ended.not_covered).toEqual({ count: 5, paths: expect.arrayContaining(['two', 'two.c', 'two.c_view', 'one.tmp_b', 'public']) });
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

describe('plans that are due', () => {
  const schedule = { rhythm: { on: 'daily' }, time: '03:00', timeZone: 'UTC' };
  const scope = { cover: 'everything', chosen: [], include: [], exclude: [] };
  const now = new Date('2026-05-10T12:00:00Z');
  const runs = () => place.db.rows<{ state: string; by: string | null; plan: string }>('select state, asked_by as by, plan_id as plan from scan_run where plan_id is not null');
  const nextAt = async () => (await place.db.rows<{ at: Date }>('select next_at as at from scan_plan'))[0]?.at.toISOString();
  beforeEach(async () => {
    await place.db.run('delete from scan_run');
    await place.db.run('delete from scan_plan');
    await place.db.run('insert into scan_plan (source_id, name, scope, options, schedule, next_at) values ($1, $2, $3, $4, $5, $6)', [
      sourceId,
      'Nightly',
      JSON.stringify(scope),
      JSON.stringify({ sample: false, rows: 500 }),
      JSON.stringify(schedule),
      '2026-05-07T03:00:00Z', // three times were missed
    ]);
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
