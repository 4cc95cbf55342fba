import type { ConnectorInput } from '@idrel/readers/connectors';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { borrow, type Lent } from '../src/access/connections.ts';
import { freshDatabase, inputOf, withClient } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let input: ConnectorInput;

beforeAll(async () => {
  place = await freshDatabase();
  input = inputOf(new URL(place.url).pathname.slice(1)) as ConnectorInput;
});
afterAll(() => place.drop());

/** Another limit of time is another way to reach the source: so each test has connections of its own. */
let limit = 20_000;
beforeEach(() => {
  limit += 1000;
});
const lend = (more = 0) => borrow(input, limit + more);
const pidOf = async ({ client }: Lent) => (await client.query('select pg_backend_pid() as pid')).rows[0].pid as number;
const ended = (pid: number) =>
  withClient(place.url, async (client) => {
    const { rows } = await client.query('select from pg_stat_activity where pid = $1', [pid]);
    return rows.length === 0;
  });
/** Waits for what the source does behind the scenes. */
async function until(holds: () => Promise<boolean>): Promise<void> {
  for (let tries = 0; tries < 200; tries += 1) {
    if (await holds()) return;
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
  throw new Error('it did not come to hold');
}
const isKept = async (pid: number) => {
  const next = await lend();
  const same = next.kept && (await pidOf(next)) === pid;
  await next.leave(true);
  return same;
};

describe('a connection of the gateway', () => {
  it('serves the next statement, and nothing of the one before is there', async () => {
    const first = await lend();
    const pid = await pidOf(first);
    expect(first.kept).toBe(false);
    await first.client.query("begin transaction read only; set local work_mem = '64kB'");
    await first.client.query(
      "select set_config('idrel.digest_key', 'secret', false), set_config('role', 'none', false)",
    );
    await first.client.query('set search_path = public; set default_transaction_read_only = off; listen told');
    await first.client.query('select pg_advisory_lock(7)');
    await first.client.query('prepare kept as select 1');
    await first.leave(true);
    const second = await lend();
    expect([second.kept, await pidOf(second)]).toEqual([true, pid]);
    const { rows } = await second.client.query(
      `select current_setting('idrel.digest_key', true) as key, current_setting('search_path') as path,
         current_setting('default_transaction_read_only') as "readOnly", current_setting('statement_timeout') as timeout,
         (select count(*)::int from pg_prepared_statements) as prepared, (select count(*)::int from pg_listening_channels()) as listening,
         (select count(*)::int from pg_locks where locktype = 'advisory' and pid = pg_backend_pid()) as locks`,
    );
    expect(rows[0]).toEqual({
      key: expect.toSatisfy((value) => value === null || value === ''),
      path: 'pg_catalog',
      readOnly: 'on',
      timeout: `${limit / 1000}s`,
      prepared: 0,
      listening: 0,
      locks: 0,
    });
    await second.leave(true);
  });

  it('on which something went wrong is closed', async () => {
    const lent = await lend();
    const pid = await pidOf(lent);
    await lent.leave(false);
    await lent.leave(true);
    await until(() => ended(pid));
  });

  it('is lent to one at a time, and to those who reach the source in the same way', async () => {
    const [one, other, elsewise] = await Promise.all([lend(), lend(), lend(500)]);
    const pids = await Promise.all([one, other, elsewise].map(pidOf));
    expect(new Set(pids).size).toBe(3);
    await other.leave(false);
    await one.leave(true);
    await elsewise.leave(true);
    expect(await isKept(pids[0] as number)).toBe(true);
    const again = await lend(500);
    expect(await pidOf(again)).toBe(pids[2]);
    await again.leave(false);
  });

  it('that the source ended meanwhile is not lent', async () => {
    const lent = await lend();
    const pid = await pidOf(lent);
    // It is heard of here a little later than it is so there.
    const heard = new Promise((resolve) => lent.client.once('end', resolve));
    await lent.leave(true);
    await withClient(place.url, (client) => client.query('select pg_terminate_backend($1)', [pid]));
    await until(() => ended(pid));
    await heard;
    const next = await lend();
    expect(await pidOf(next)).not.toBe(pid);
    await next.leave(false);
  });

  it('that cannot be had is told in words', async () => {
    await expect(borrow({ ...input, address: { ...input.address, port: 1 } }, 1000)).rejects.toMatchObject({
      name: 'SourceProblem',
    });
  });
});
