import { firstWay } from './people/index.ts';
import { readConfig } from './platform/config.ts';
import { openDatabase } from './platform/database.ts';

// For operators, at the machine: a link by which somebody sets a password. It is how the first administrator comes in, and the way back when no mail can be sent.
const [email = '', name = ''] = process.argv.slice(2);
const config = readConfig();
const db = openDatabase(config.databaseUrl);
try {
  const { link, told } = await db.transaction((tx) =>
    firstWay(tx, config.address ?? `http://${config.host}:${config.port}`, email.trim(), name.trim()),
  );
  process.stdout.write(`${told}\n${link}\n`);
} catch (error) {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exitCode = 1;
} finally {
  await db.close();
}
