import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { executeRun, sweep } from '../src/scanning/index.ts';
import { queueRun } from '../src/scanning/queue.ts';
import { freshDatabase, furnish, postgresSource, testConfig, urlOf, withClient } from './place.ts';

const system = `limits_${process.pid}`;
const config = testConfig();
let place: Awaited<ReturnType<typeof freshDatabase>>;
let domainId: string;
let sourceId: string;

beforeAll(async () => {
  place = await freshDatabase();
  ({ domainId } = await furnish(place.db));
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) =>
    client.query(
      "create schema s; do $$ begin for i in 1..80 loop execute format('create table s.t%s as select n as id, ''v'' || n as name from generate_series(1, 5000) n', i); end loop; end $$",
    ),
  );
  sourceId = await postgresSource(place.db, { name: 'Limited', domainId, database: system, key: config.key });
});
afterAll(async () => {
  await place.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
});

interface Row {
  id: string;
  state: string;
  problem: { what: string; mend: string } | null;
  options: { attempt?: number };
  minutes: number | null;
}
const rows = () =>
  place.db.rows<Row>(
    'select id, state, problem, options, round(extract(epoch from not_before - asked_at) / 60)::int as minutes from scan_run where source_id = any($1::uuid[]) order by asked_at desc, id desc',
    [[sourceId, broken]],
  );
let broken = '00000000-0000-0000-0000-000000000000';

describe('a run with a limit of time', () => {
  it('is ended when it takes longer, says so, and leaves the catalog alone', async () => {
    const id = await queueRun(place.db, { sourceId, planId: null, options: { minutes: 0.003 }, askedBy: null });
    await executeRun(place.db, config, id ?? '');
    const [run] = await rows();
    expect([run?.state, run?.problem?.what]).toEqual(['failed', expect.stringContaining('took longer than')]);
    expect(run?.problem?.mend).toContain('more time');
    expect(await place.db.one<{ n: number }>('select count(*)::int as n from asset')).toEqual({ n: 0 });
  });

  it('ends by itself when it is quicker; the first rows are enough for it', async () => {
    const id = await queueRun(place.db, {
      sourceId,
      planId: null,
      options: { minutes: 60, method: 'first', rows: 20 },
      askedBy: null,
    });
    await executeRun(place.db, config, id ?? '');
    expect((await rows())[0]?.state).toBe('done');
    const profile = await place.db.one<{ facts: { rows: number; whole: boolean } }>(
      "select facts from column_profile p join asset a on a.id = p.asset_id where a.key like '%t7' || chr(31) || 'id'",
    );
    expect(profile?.facts).toMatchObject({ rows: 5000, whole: true });
  });
});

describe('a run that fails', () => {
  it('is tried again as often as its plan says, each time after twice as long, and no more', async () => {
    broken = await postgresSource(place.db, {
      name: 'Broken',
      domainId,
      database: system,
      key: config.key,
      password: 'wrong',
    });
    let id = await queueRun(place.db, { sourceId: broken, planId: null, options: { retries: 2 }, askedBy: null });
    const waits: (number | null)[] = [];
    for (let round = 0; round < 3; round += 1) {
      await executeRun(place.db, config, id ?? '');
      const [next] = await rows();
      if (next?.state !== 'waiting') break;
      waits.push(next.minutes);
      id = next.id;
    }
    expect(waits).toEqual([1, 2]);
    expect((await rows()).filter((run) => run.state === 'failed')).toHaveLength(4);
    const log = await place.db.rows<{ text: string }>(
      "select text from scan_log where text like 'It is tried again%' order by id",
    );
    expect(log.map((line) => line.text)).toEqual([
      'It is tried again in 1 min (1 of 2).',
      'It is tried again in 2 min (2 of 2).',
    ]);
  });

  it('is not begun by a worker before its time', async () => {
    const id = await queueRun(place.db, { sourceId: broken, planId: null, options: { retries: 1 }, askedBy: null });
    await executeRun(place.db, config, id ?? '');
    const job = await place.db.one<{ later: boolean }>(
      "select run_at > now() + interval '30 seconds' as later from graphile_worker.jobs order by id desc limit 1",
    );
    expect(job).toEqual({ later: true });
  });

  it('gives way to a scan that somebody asks for now', async () => {
    const waiting = (await rows()).find((run) => run.state === 'waiting');
    expect(waiting).toBeTruthy();
    const id = await queueRun(place.db, { sourceId: broken, planId: null, options: {}, askedBy: null });
    expect(id).toBeTruthy();
    expect((await rows()).find((run) => run.id === waiting?.id)?.state).toBe('cancelled');
    await executeRun(place.db, config, id ?? '');
  });

  it('is tried again also when its worker died without a word', async () => {
    const id = await queueRun(place.db, { sourceId: broken, planId: null, options: { retries: 1 }, askedBy: null });
    await place.db.run(
      "update scan_run set state = 'sampling', started_at = now(), beat_at = now() - interval '1 hour' where id = $1",
      [id],
    );
    expect(await sweep(place.db)).toBe(1);
    const [next] = await rows();
    expect([next?.state, next?.options.attempt, next?.minutes]).toEqual(['waiting', 1, 1]);
  });
});
