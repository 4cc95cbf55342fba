import { openDatabase } from '../server/dist/platform/database.js';
import { executeRun } from '../server/dist/scanning/index.js';

/** Scans one source once, and prints how much memory that took at most, in MB. */
const [url, key, source] = process.argv.slice(2);
const db = openDatabase(url);
const [{ id }] = await db.rows(
  'insert into scan_run (source_id, options) values ($1, \'{"sample": false}\') returning id',
  [source],
);
await executeRun(db, { key: Buffer.from(key, 'base64'), sourceNetworks: ['127.0.0.0/8', '::1'] }, id);
const [{ state }] = await db.rows('select state from scan_run where id = $1', [id]);
await db.close();
if (state !== 'done') throw new Error(`the scan ended as ${state}`);
process.stdout.write(`${Math.round(process.resourceUsage().maxRSS / 1024)}\n`);
