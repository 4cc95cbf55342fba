import { type AddressInfo, connect } from 'node:net';
import fc from 'fast-check';
import pg from 'pg';
import Cursor from 'pg-cursor';
import { pino } from 'pino';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openClients } from '../src/access/clients/server.ts';
import { makeClientKey } from '../src/people/clientKeys.ts';
import type { Who } from '../src/people/index.ts';
import type { Config } from '../src/platform/config.ts';
import { executeRun } from '../src/scanning/index.ts';
import {
  addPolicy,
  freshDatabase,
  furnish,
  personWith,
  postgresSource,
  testConfig,
  urlOf,
  withClient,
} from './place.ts';

/** Two hundred programs at once, killed at random while the source ends its connections under them: nothing hangs, nothing is kept, and errors are those that are known. */
const system = `killed_${process.pid}`;
const SCHEMA = `
  create schema s;
  create table s.few as select i as n, 'row ' || i as said from generate_series(1, 500) i;
  create table s.many as select i as n, repeat('x', 100) as filling from generate_series(1, 60000) i`;
const PEOPLE = 8;
const EACH = 25;

let place: Awaited<ReturnType<typeof freshDatabase>>;
let open: NonNullable<Awaited<ReturnType<typeof openClients>>>;
let port: number;
const readers: { readonly who: Who; readonly key: string }[] = [];

beforeAll(async () => {
  place = await freshDatabase();
  const { db } = place;
  const config = { ...testConfig(), host: '127.0.0.1', clients: { port: 0, tls: null } } as Config;
  const { domainId } = await furnish(db);
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) => client.query(SCHEMA));
  const sourceId = await postgresSource(db, { name: 'Shop', domainId, database: system, key: config.key });
  const run = await db.one<{ id: string }>(
    'insert into scan_run (source_id, options) values ($1, \'{"sample": false}\') returning id',
    [sourceId],
  );
  await executeRun(db, config, run?.id ?? '');
  const tables = await db.rows<{ id: string }>("select id from asset where source_id = $1 and kind = 'table'", [
    sourceId,
  ]);
  await addPolicy(db, { name: 'All', everyone: true, assetIds: tables.map(({ id }) => id) });
  for (let at = 0; at < PEOPLE; at += 1) {
    const who = await personWith(db, `reader${at}@example.org`, 'reader', domainId);
    const { key } = await db.transaction((tx) => makeClientKey(tx, who, { name: 'here', days: 1 }));
    readers.push({ who, key });
  }
  open = (await openClients({
    db,
    config,
    log: pino({ level: 'silent' }),
    signals: undefined as never,
  })) as typeof open;
  port = (open.server.address() as AddressInfo).port;
});
afterAll(async () => {
  await open?.close();
  await place?.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
});

const clientOf = ({ who, key }: (typeof readers)[number]) => {
  const client = new pg.Client({ host: '127.0.0.1', port, user: who.name, password: key, database: 'Shop' });
  client.on('error', () => undefined); // told by what fails
  return client;
};
/** Cuts a client off, as when its machine falls. */
const kill = (client: pg.Client) =>
  (client as unknown as { connection: { stream: { destroy(): void } } }).connection.stream.destroy();

const WORK: Readonly<Record<string, (client: pg.Client) => Promise<unknown>>> = {
  few: async (client) => {
    const { rows } = await client.query('select n, said from s.few where n <= $1 order by n', [20]);
    if (rows.length !== 20 || rows[19]?.said !== 'row 20') throw new Error(`wrong rows: ${JSON.stringify(rows)}`);
  },
  many: async (client) => {
    const { rows } = await client.query('select count(*)::int as n from s.many');
    if (rows[0]?.n !== 60_000) throw new Error(`wrong count: ${JSON.stringify(rows)}`);
  },
  all: async (client) => {
    const { rowCount } = await client.query('select n, filling from s.many limit 5000');
    if (rowCount !== 5000) throw new Error(`wrong number of rows: ${rowCount}`);
  },
  'by and by': async (client) => {
    const cursor = client.query(new Cursor<{ n: number }>('select n from s.many order by n'));
    const first = await cursor.read(100);
    await cursor.close();
    if (first.length !== 100 || first[99]?.n !== 100) throw new Error('wrong rows of a cursor');
  },
  refused: (client) =>
    client.query('select * from s.nothing').catch((error: { code?: string }) => {
      if (error.code !== '42P01') throw error;
    }),
};
/** What a client may be told: it was cut off, the source has gone, or there is no turn; never anything that nobody thought of. */
const KNOWN = new Set(['58000', '57014', '57P01', '53300']);
const isKnown = (error: unknown) => {
  const { code, message = '' } = error as { code?: string; message?: string };
  return (
    KNOWN.has(code ?? '') || /Connection terminated|not queryable|ECONNRESET|EPIPE|connection error/i.test(message)
  );
};

const there = () =>
  withClient(urlOf('postgres'), async (client) => {
    const { rows } = await client.query<{ all: number; busy: number }>(
      `select count(*)::int as all, count(*) filter (where state <> 'idle')::int as busy from pg_stat_activity where datname = $1`,
      [system],
    );
    return rows[0] ?? { all: 0, busy: 0 };
  });
const endAllThere = () =>
  withClient(urlOf('postgres'), (client) =>
    client.query('select pg_terminate_backend(pid) from pg_stat_activity where datname = $1', [system]),
  );

/** What a client waits for, until it is cut off: a driver that was cut off itself can wait for ever. Whoever was not and waits for ever has the test end by its time. */
const within = <T>(client: pg.Client, work: Promise<T>): Promise<T> =>
  Promise.race([
    work,
    new Promise<never>((_, reject) => {
      client.once('end', () => reject(new Error('Connection terminated')));
    }),
  ]);

describe('two hundred programs', () => {
  it('are killed at random while the source falls under them, and leave nothing behind', async () => {
    const plans = fc.sample(
      fc.record({
        work: fc.array(fc.constantFrom(...Object.keys(WORK)), { minLength: 1, maxLength: 4 }),
        killedAfter: fc.option(fc.integer({ min: 5, max: 1500 }), { nil: null }),
      }),
      { numRuns: PEOPLE * EACH, seed: 27 },
    );
    const unknown: string[] = [];
    const done = { finished: 0, told: 0, killed: 0 };
    const one = async ({ work, killedAfter }: (typeof plans)[number], reader: (typeof readers)[number]) => {
      const client = clientOf(reader);
      const killing = killedAfter === null ? undefined : setTimeout(() => kill(client), killedAfter);
      let [wasTold, gone] = [false, false];
      client.once('end', () => {
        gone = true;
      });
      try {
        await within(client, client.connect());
        for (const what of work) {
          if (gone) break;
          await within(client, WORK[what]?.(client) ?? Promise.resolve()).catch((error: unknown) => {
            if (!isKnown(error)) unknown.push(`${what}: ${String(error)}`);
            wasTold = true;
          });
        }
        done[wasTold ? 'told' : 'finished'] += 1;
      } catch (error) {
        if (!isKnown(error)) unknown.push(`connect: ${String(error)}`);
        done.killed += 1;
      } finally {
        clearTimeout(killing);
        await Promise.race([client.end().catch(() => undefined), new Promise((resolve) => setTimeout(resolve, 500))]);
        kill(client);
      }
    };
    const all = Promise.all(plans.map((plan, at) => one(plan, readers[at % PEOPLE] as (typeof readers)[number])));
    for (const after of [300, 600, 900]) {
      await new Promise((resolve) => setTimeout(resolve, after));
      await endAllThere();
    }
    await all;
    expect(unknown).toEqual([]);
    expect(done.finished + done.told + done.killed).toBe(PEOPLE * EACH);
    expect(done.finished, JSON.stringify(done)).toBeGreaterThan(0);
    // Nothing runs on at the source for those who have gone.
    await expect.poll(async () => (await there()).busy).toBe(0);
    expect((await there()).all).toBeLessThanOrEqual(64);
  });

  it('are all let in again afterwards, each with their turns', async () => {
    const clients = readers.flatMap((reader) => Array.from({ length: EACH }, () => clientOf(reader)));
    // Whoever does not say in time who they are is not let in: not all of them at once, on a machine that does other things as well.
    for (let at = 0; at < clients.length; at += EACH)
      await Promise.all(clients.slice(at, at + EACH).map((client) => client.connect()));
    const [more] = [clientOf(readers[0] as (typeof readers)[number])];
    await expect(more?.connect()).rejects.toMatchObject({ code: '53300' });
    // Whoever is refused and does not go is cut off all the same.
    const staying = connect({ port, host: '127.0.0.1', allowHalfOpen: true });
    staying.on('error', () => undefined);
    staying.resume();
    const connected = () =>
      new Promise<number>((resolve) => {
        open.server.getConnections((_, count) => resolve(count));
      });
    await expect.poll(connected).toBe(PEOPLE * EACH);
    staying.destroy();
    for (let at = 0; at < clients.length; at += 4)
      await Promise.all(clients.slice(at, at + 4).map((client) => WORK.few?.(client)));
    await Promise.all(clients.map((client) => client.end()));
    // The server hears of it a moment later that somebody has gone.
    const again = await (async function tries(left: number): Promise<pg.Client> {
      const client = clientOf(readers[0] as (typeof readers)[number]);
      try {
        await client.connect();
        return client;
      } catch (error) {
        if (left === 0) throw error;
        await new Promise((resolve) => setTimeout(resolve, 100));
        return tries(left - 1);
      }
    })(600);
    await WORK.many?.(again);
    await again.end();
  });
});
