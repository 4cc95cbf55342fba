import { createHash } from 'node:crypto';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { type ClientBase, DatabaseError } from 'pg';
import { from as copyFrom } from 'pg-copy-streams';
import { QueryTypes, Sequelize, type Transaction } from 'sequelize';

/** Where statements run: on a connection of the pool, or inside a transaction. Parameters are bound (`$1`), never pasted. */
export interface Db {
  readonly sequelize: Sequelize;
  /** What calls of models are given, so that they run here: `Model.findByPk(id, db.here)`. */
  readonly here: { readonly transaction?: Transaction };
  /** The moment as of which all is seen, in milliseconds since 1970; undefined: now. */
  readonly moment?: number;
  rows<T extends object>(sql: string, bind?: readonly unknown[]): Promise<T[]>;
  /** The first row, or undefined. */
  one<T extends object>(sql: string, bind?: readonly unknown[]): Promise<T | undefined>;
  /**
   * Rows of a statement that is asked for with nearly every request: each connection plans it once, and is told its name alone from then on. Its text must be one
   * of few.
   */
  often<T extends object>(sql: string, bind: readonly unknown[]): Promise<T[]>;
  /** Runs a statement for its effect; the number of rows it touched. */
  run(sql: string, bind?: readonly unknown[]): Promise<number>;
}

/** A transaction: everything, and taking in many rows in one stream. */
export interface Tx extends Db {
  /** Runs `copy … from stdin` (text format) with lines made by {@link copyLine}, made as fast as the database takes them. */
  copyIn(sql: string, lines: Iterable<string>): Promise<void>;
}

export interface Database extends Db {
  /** All or nothing: what the work does is kept only when it returns. */
  transaction<T>(work: (tx: Tx) => Promise<T>): Promise<T>;
  close(): Promise<void>;
}

function runner(sequelize: Sequelize, transaction?: Transaction): Db {
  const options = (bind?: readonly unknown[]) => ({
    ...(bind ? { bind: [...bind] } : {}),
    ...(transaction ? { transaction } : {}),
  });
  return {
    sequelize,
    here: transaction ? { transaction } : {},
    rows: <T extends object>(sql: string, bind?: readonly unknown[]) =>
      sequelize.query<T>(sql, { ...options(bind), type: QueryTypes.SELECT }),
    async one<T extends object>(sql: string, bind?: readonly unknown[]) {
      const [first] = await sequelize.query<T>(sql, { ...options(bind), type: QueryTypes.SELECT });
      return first;
    },
    async often<T extends object>(sql: string, bind: readonly unknown[]) {
      const { connectionManager } = sequelize;
      const connection = transaction
        ? (transaction as unknown as { connection: PoolClient }).connection
        : ((await connectionManager.getConnection({ type: 'read' })) as PoolClient);
      try {
        return (await connection.query<T>({ name: nameOf(sql), text: sql, values: [...bind] })).rows;
      } catch (error) {
        // What PostgreSQL refuses has a state; after anything else the connection may be of no more use, as Sequelize marks it.
        if (!(error instanceof DatabaseError)) connection._invalid = true;
        throw error;
      } finally {
        if (!transaction) connectionManager.releaseConnection(connection);
      }
    },
    async run(sql, bind) {
      const [, result] = (await sequelize.query(sql, { ...options(bind), type: QueryTypes.RAW })) as [
        unknown,
        { rowCount?: number } | number | undefined,
      ];
      // Of some inserts Sequelize tells the number alone.
      return typeof result === 'number' ? result : (result?.rowCount ?? 0);
    },
  };
}

/** A connection of Sequelize's pool. */
type PoolClient = ClientBase & { _invalid?: boolean };

/** Statements that are asked often, by their texts: the names they are known by on each connection. */
const names = new Map<string, string>();
function nameOf(sql: string): string {
  const known = names.get(sql);
  if (known) return known;
  const name = `idrel ${createHash('sha256').update(sql).digest('hex').slice(0, 32)}`;
  names.set(sql, name);
  return name;
}

const ESCAPES: Record<string, string> = { '\\': '\\\\', '\n': '\\n', '\r': '\\r', '\t': '\\t' };

/** One line of PostgreSQL's text format for COPY: tabs between, `\\N` for null, the four special characters escaped. */
export function copyLine(values: readonly (string | number | null)[]): string {
  let line = '';
  for (const value of values) {
    if (line !== '') line += '\t';
    line +=
      value === null
        ? '\\N'
        : typeof value === 'number'
          ? value
          : /[\\\n\r\t]/.test(value)
            ? value.replace(/[\\\n\r\t]/g, (character) => ESCAPES[character] as string)
            : value;
  }
  return `${line}\n`;
}

/** Lines joined to pieces of some 64 kB: a write per line would cost more than the line. */
function* pieces(lines: Iterable<string>): Generator<string> {
  let piece = '';
  for (const line of lines) {
    piece += line;
    if (piece.length > 65_536) {
      yield piece;
      piece = '';
    }
  }
  if (piece !== '') yield piece;
}

function transactionRunner(sequelize: Sequelize, transaction: Transaction): Tx {
  return {
    ...runner(sequelize, transaction),
    async copyIn(sql, lines) {
      const client = (transaction as unknown as { connection: ClientBase }).connection;
      await pipeline(Readable.from(pieces(lines)), client.query(copyFrom(sql)));
    },
  };
}

/**
 * Looks as of a moment: of the tables that decide who reads what each is as it was then, all others are as they are. Nothing can be written there.
 * @param moment milliseconds since 1970, not before {@link begunAt}
 */
export const asOfMoment = <T>(db: Database, moment: number, work: (past: Db) => Promise<T>): Promise<T> =>
  db.transaction(async (tx) => {
    await tx.rows(
      "select set_config('search_path', 'past, public', true), set_config('idrel.moment', $1, true), set_config('transaction_read_only', 'on', true)",
      [new Date(moment).toISOString()],
    );
    return work({ ...tx, moment });
  });

/** From when on it can be asked how things were, in milliseconds since 1970. */
export const begunAt = async (db: Db): Promise<number> =>
  (await db.one<{ at: Date }>('select at from past.begun'))?.at.getTime() ?? Date.now();

/** The moment that is looked at, in milliseconds since 1970. */
export const momentOf = (db: Db): number => db.moment ?? Date.now();

class TakenBack extends Error {
  readonly answer: unknown;
  constructor(answer: unknown) {
    super('taken back');
    this.answer = answer;
  }
}

/** What the work would answer: it is done in a transaction that is always taken back. So what a preview tells is what the same work does in earnest. */
export async function asIf<T>(db: Database, work: (tx: Tx) => Promise<T>): Promise<T> {
  try {
    return await db.transaction<T>(async (tx) => {
      throw new TakenBack(await work(tx));
    });
  } catch (error) {
    if (error instanceof TakenBack) return error.answer as T;
    throw error;
  }
}

/** Opens a pool of connections. */
export function openDatabase(url: string, options: { max?: number } = {}): Database {
  const sequelize = new Sequelize(url, {
    dialect: 'postgres',
    logging: false,
    pool: { max: options.max ?? 12, idle: 10_000 },
    dialectOptions: { application_name: 'idrel' },
  });
  // Statements here are long in text and short in time: compiling them took several times as long as running them.
  sequelize.addHook('afterConnect', async (connection) => {
    await (connection as ClientBase).query('set jit = off');
  });
  return {
    ...runner(sequelize),
    transaction: (work) => sequelize.transaction((transaction) => work(transactionRunner(sequelize, transaction))),
    close: () => sequelize.close(),
  };
}
