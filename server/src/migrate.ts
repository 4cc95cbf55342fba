import { runMigrations } from 'graphile-worker';
import { spellTags } from './curation/index.ts';
import { resealWebhooks } from './exchange/index.ts';
import { spellTerms } from './glossary/index.ts';
import { readConfig } from './platform/config.ts';
import { openDatabase } from './platform/database.ts';
import { migrate } from './platform/migrations.ts';
import { resealCredentials, splitAddressSecrets } from './sources/index.ts';

const config = readConfig();
const db = openDatabase(config.databaseUrl);
await runMigrations({ connectionString: config.databaseUrl });
const done = await migrate(db.sequelize);
process.stdout.write(done.length > 0 ? `Database brought to ${done.at(-1)}.\n` : 'Database is up to date.\n');
const { resealed, lost } = await db.transaction((tx) => resealCredentials(tx, config));
const webhooks = await db.transaction((tx) => resealWebhooks(tx, config));
if (webhooks.lost.length > 0)
  process.stderr.write(
    `No key opens the secrets of the webhooks ${webhooks.lost.join(', ')}: start once with the key from before as IDREL_KEY_BEFORE, or make new ones under Settings → Webhooks.\n`,
  );
if (resealed + webhooks.resealed > 0)
  process.stdout.write(`${resealed + webhooks.resealed} secrets are now encrypted under a key of their own.\n`);
if (lost.length > 0)
  process.stderr.write(
    `No key opens the secrets of ${lost.join(', ')}: start once with the key from before as IDREL_KEY_BEFORE, or enter these secrets anew under Sources → Credentials.\n`,
  );
const split = await db.transaction((tx) => splitAddressSecrets(tx, config));
if (split.length > 0) process.stdout.write(`Secrets were taken out of the addresses of ${split.join(', ')}.\n`);
await db.transaction(spellTerms);
await db.transaction(spellTags);
await db.close();
