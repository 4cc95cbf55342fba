import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { prepare } from '../src/access/gateway.ts';
import { type Bounds, openGateway, runPrepared } from '../src/access/runQuery.ts';
import { callablesOf } from '../src/access/sourceCallables.ts';
import { takeTurn } from '../src/access/turns.ts';
import { freshDatabase, furnish, postgresSource, testConfig, urlOf, withClient } from './place.ts';

/** What one reader may take of the server and of the source. */
const system = `bounded_${process.pid}`;
const config = testConfig();
let place: Awaited<ReturnType<typeof freshDatabase>>;
let sourceId: string;
let personId: string;

beforeAll(async () => {
  place = await freshDatabase();
  const home = await furnish(place.db);
  personId = home.personId;
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  sourceId = await postgresSource(place.db, {
    name: 'Bounded',
    domainId: home.domainId,
    database: system,
    key: config.key,
  });
});
afterAll(async () => {
  await place.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
});

const WIDE: Bounds = { rows: 1_000_000, bytes: 1 << 30, seconds: 60 };

async function run(
  sql: string,
  bounds: Bounds,
  take: (rows: number) => Promise<void> | void = () => undefined,
  left?: AbortSignal,
) {
  const gateway = await openGateway(place.db, config, sourceId);
  try {
    const { callables } = await callablesOf(sourceId, 1, gateway.client);
    const prepared = await prepare(place.db, callables, { personId, purpose: null }, sourceId, sql);
    let largest = 0;
    const done = await runPrepared(
      gateway,
      config,
      prepared,
      bounds,
      async (_columns, rows) => {
        largest = Math.max(
          largest,
          rows.reduce((sum, row) => sum + row.reduce((length, value) => length + (value?.length ?? 0), 0), 0),
        );
        await take(rows.length);
      },
      left,
    );
    return { ...done, largest };
  } finally {
    await gateway.leave(false);
  }
}

const underWay = () =>
  withClient(
    urlOf(system),
    async (client) =>
      (
        await client.query(
          "select count(*)::int as n from pg_stat_activity where datname = current_database() and state = 'active' and query like '%generate_series%' and pid <> pg_backend_pid()",
        )
      ).rows[0].n as number,
  );

describe('an answer', () => {
  it('of millions of letters a row comes in batches of a few', async () => {
    const { rows, capped, because, largest } = await run("select repeat('x', 1000000) from generate_series(1, 5000)", {
      ...WIDE,
      bytes: 60e6,
    });
    expect([capped, because]).toEqual([true, 'bytes']);
    expect(rows).toBeGreaterThan(30);
    expect(rows).toBeLessThan(90);
    expect(largest).toBeLessThan(20e6);
  });

  it('whose rows suddenly grow stays within what is held at once', async () => {
    await expect(
      run("select case when i > 20000 then repeat('x', 1000000) else 'x' end from generate_series(1, 30000) i", WIDE),
    ).rejects.toThrow('larger than 8 MB');
  });

  it('of one endless row is refused, and says how to read a part of it', async () => {
    await expect(run("select repeat('x', 30000000)", WIDE)).rejects.toMatchObject({
      code: 'row-too-large',
      more: { mend: expect.stringContaining('left()') },
    });
  });

  it('of many small rows comes whole', async () => {
    expect(await run('select i, i * 2 from generate_series(1, 50000) i', WIDE)).toMatchObject({
      rows: 50_000,
      capped: false,
    });
    expect(await run('select i from generate_series(1, 50000) i', { ...WIDE, rows: 100 })).toMatchObject({
      rows: 100,
      capped: true,
      because: 'rows',
    });
  });

  it('ends at the source when the reader leaves', async () => {
    const leaving = new AbortController();
    const answer = run(
      'select count(*) from generate_series(1, 100000000) a, generate_series(1, 100000000) b',
      WIDE,
      undefined,
      leaving.signal,
    );
    await expect.poll(underWay).toBe(1);
    leaving.abort();
    await expect(answer).rejects.toMatchObject({ code: 'gone' });
    await expect.poll(underWay).toBe(0);
  });

  it('is not begun on another connection for a reader who has left already', async () => {
    // A connection that waits, as after any statement that went well.
    await run('select 1', WIDE);
    await expect
      .poll(async () => {
        const next = await openGateway(place.db, config, sourceId);
        await next.leave(true);
        return next.kept;
      })
      .toBe(true);
    let taken = 0;
    const answer = run(
      'select i from generate_series(1, 10) i',
      WIDE,
      (rows) => {
        taken += rows;
      },
      AbortSignal.abort(),
    );
    await expect(answer).rejects.toMatchObject({ code: 'gone' });
    expect(taken).toBe(0);
  });

  it('that is not taken ends after its time', async () => {
    const slowly = () => new Promise<void>((resolve) => setTimeout(resolve, 400));
    await expect(
      run('select i from generate_series(1, 3000000) i', { ...WIDE, seconds: 1 }, slowly),
    ).rejects.toMatchObject({ code: 'query-stopped' });
  });

  it.each([
    ['select (select i from generate_series(1, 2) i)', '21000'],
    ["select lower('x', 'y')", '42'],
    ['select 1 / 0', '22012'],
    ["select repeat('x', 2000000000)", '54'],
  ])('%s is refused as the fault of the question', async (sql, code) => {
    await expect(run(sql, WIDE)).rejects.toMatchObject({
      status: 422,
      message: expect.stringContaining(code.slice(0, 2)),
    });
  });
});

describe('one person', () => {
  it('has a few queries under way at most, and gets the turns back', () => {
    const turns = Array.from({ length: 4 }, () => takeTurn('somebody'));
    expect(() => takeTurn('somebody')).toThrow('under way already');
    const other = takeTurn('somebody else');
    for (const turn of [...turns, other]) turn();
    takeTurn('somebody')();
  });
});
