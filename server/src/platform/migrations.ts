import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import type { Sequelize } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';

const FOLDER = fileURLToPath(new URL('../../migrations/', import.meta.url));

/**
 * Brings the database to the newest schema: forward only, each file in a transaction of its own.
 * Several servers may start at once: an advisory lock lets one migrate while the others wait.
 * @param to the last one to run, to stand where an earlier version stood
 * @returns names of the migrations that were run
 */
export async function migrate(sequelize: Sequelize, to?: string): Promise<string[]> {
  const umzug = new Umzug({
    context: sequelize,
    logger: undefined,
    storage: new SequelizeStorage({ sequelize, tableName: 'migration' }),
    migrations: readdirSync(FOLDER)
      .filter((name) => name.endsWith('.sql'))
      .sort()
      .map((name) => ({
        name,
        up: () =>
          sequelize.transaction(async (transaction) => {
            await sequelize.query(readFileSync(`${FOLDER}${name}`, 'utf8'), { transaction });
          }),
      })),
  });
  return sequelize.transaction(async (transaction) => {
    await sequelize.query('select pg_advisory_xact_lock(738201)', { transaction });
    const done = await umzug.up(to === undefined ? {} : { to });
    return done.map((migration) => migration.name);
  });
}
