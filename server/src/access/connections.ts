import { createHash } from 'node:crypto';
import { type ConnectorInput, connectToPostgres } from '@idrel/readers/connectors';
import type pg from 'pg';
import { Pool } from 'sequelize-pool';

/** So long a connection waits for the next statement: to open one takes longer than most statements do. */
const KEPT_MS = 15_000;
/** More statements than this are never under way at once. */
const MOST = 64;

/** A connection to a source, lent for one statement. */
export interface Lent {
  readonly client: pg.Client;
  /** It served another statement before. */
  readonly kept: boolean;
  /**
   * Gives it back. Nothing of a statement outlives it: the transaction is taken back and the session made as it was opened, else the connection is closed.
   * Whoever has their answer need not wait for it.
   * @param well whether nothing went wrong on it
   */
  leave(well: boolean): Promise<void>;
}

type Kept = pg.Client & { broken?: true; used?: true };
const pools = new Map<string, Pool<Kept>>();

/** Whoever reaches the same place in the same way may be lent the same connection: what it may read there is the same, and is decided elsewhere. */
const nameOf = (input: ConnectorInput, statementTimeout: number) =>
  createHash('sha256')
    .update(JSON.stringify([input.address, input.secret, statementTimeout]))
    .digest('base64');

function poolFor(input: ConnectorInput, statementTimeout: number): Pool<Kept> {
  const name = nameOf(input, statementTimeout);
  for (const [other, pool] of pools) if (other !== name && pool.size === 0) pools.delete(other);
  const known = pools.get(name);
  if (known) return known;
  const pool = new Pool<Kept>({
    name: 'gateway',
    create: async () => {
      const client: Kept = await connectToPostgres(input, { statementTimeout });
      client.once('end', () => {
        client.broken = true;
      });
      return client;
    },
    destroy: (client) => client.end().catch(() => undefined),
    validate: (client) => !client.broken,
    min: 0,
    max: MOST,
    idleTimeoutMillis: KEPT_MS,
    reapIntervalMillis: 5000,
  });
  pools.set(name, pool);
  return pool;
}

/** Takes back whatever a statement left behind. */
async function reset(client: pg.Client): Promise<void> {
  await client.query('rollback');
  await client.query('discard all');
}

/**
 * Lends a connection for one statement: one that waits, or a new one.
 * @throws SourceProblem when the source cannot be reached
 */
export async function borrow(input: ConnectorInput, statementTimeout: number): Promise<Lent> {
  const pool = poolFor(input, statementTimeout);
  const client = await pool.acquire();
  const kept = client.used === true;
  client.used = true;
  let left = false;
  return {
    client,
    kept,
    async leave(well) {
      if (left) return;
      left = true;
      try {
        if (!well || client.broken) throw new Error('not to be used again');
        await reset(client);
        pool.release(client);
      } catch {
        await pool.destroy(client);
      }
    },
  };
}
