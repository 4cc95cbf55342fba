import { runMigrations } from 'graphile-worker';
import { readConfig } from './platform/config.ts';
import { openDatabase } from './platform/database.ts';
import { migrate } from './platform/migrations.ts';

const config = readConfig();
const db = openDatabase(config.databaseUrl);
await runMigrations({ connectionString: config.databaseUrl });
const done = await migrate(db.sequelize);
process.stdout.write(done.length > 0 ? `Database brought to ${done.at(-1)}.\n` : 'Database is up to date.\n');
await db.close();
