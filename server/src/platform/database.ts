import { QueryTypes, Sequelize, type Transaction } from 'sequelize';

/** Where statements run: on a connection of the pool, or inside a transaction. Parameters are bound (`$1`), never pasted. */
export interface Db {
  rows<T extends object>(sql: string, bind?: readonly unknown[]): Promise<T[]>;
  /** The first row, or undefined. */
  one<T extends object>(sql: string, bind?: readonly unknown[]): Promise<T | undefined>;
  /** Runs a statement for its effect; the number of rows it touched. */
  run(sql: string, bind?: readonly unknown[]): Promise<number>;
}

export interface Database extends Db {
  readonly sequelize: Sequelize;
  /** All or nothing: what the work does is kept only when it returns. */
  transaction<T>(work: (tx: Db) => Promise<T>): Promise<T>;
  close(): Promise<void>;
}

function runner(sequelize: Sequelize, transaction?: Transaction): Db {
  const options = (bind?: readonly unknown[]) => ({ ...(bind ? { bind: [...bind] } : {}), ...(transaction ? { transaction } : {}) });
  return {
    rows: <T extends object>(sql: string, bind?: readonly unknown[]) => sequelize.query<T>(sql, { ...options(bind), type: QueryTypes.SELECT }),
    async one<T extends object>(sql: string, bind?: readonly unknown[]) {
      const [first] = await sequelize.query<T>(sql, { ...options(bind), type: QueryTypes.SELECT });
      return first;
    },
    async run(sql, bind) {
      const [, result] = (await sequelize.query(sql, { ...options(bind), type: QueryTypes.RAW })) as [unknown, { rowCount?: number } | undefined];
      return result?.rowCount ?? 0;
    },
  };
}

/** Opens a pool of connections. */
export function openDatabase(url: string, options: { max?: number } = {}): Database {
  const sequelize = new Sequelize(url, { dialect: 'postgres', logging: false, pool: { max: options.max ?? 12, idle: 10_000 }, dialectOptions: { application_name: 'idrel' } });
  return {
    sequelize,
    ...runner(sequelize),
    transaction: (work) => sequelize.transaction((transaction) => work(runner(sequelize, transaction))),
    close: () => sequelize.close(),
  };
}
