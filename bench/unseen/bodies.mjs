import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { readScript, SchemaCatalog } from '../../core/dist/lineage/index.js';
import { loadParser } from '../../core/dist/sql/index.js';

// node bench/unseen/bodies.mjs FILE …: how much of SQL scripts that nobody here wrote is understood: statements, lost ones by reason, edges, time.
// Commands of psql that refuse to be run (\echo … \quit) at the head of extensions are left out, and @extschema@ is a schema.
await loadParser();
const sums = { files: 0, statements: 0, routines: 0, lost: 0, dynamic: 0, language: 0, broken: 0, edges: 0, ms: 0 };
for (const file of process.argv.slice(2)) {
  const bytes = readFileSync(file);
  const sql = (file.endsWith('.gz') ? gunzipSync(bytes) : bytes)
    .toString('utf8')
    .replaceAll('@extschema@', 'ext')
    .replace(/^\\(echo|quit).*$/gm, '');
  const began = performance.now();
  const catalog = new SchemaCatalog();
  readScript(sql, catalog);
  const { read, statements, unresolved } = readScript(sql, catalog);
  const lost = unresolved.filter((one) => one.lost);
  const count = (pattern) => lost.filter(({ reason }) => pattern.test(reason)).length;
  const one = {
    files: 1,
    statements: read,
    routines: (sql.match(/create\s+(or\s+replace\s+)?(function|procedure)/gi) ?? []).length,
    lost: lost.length,
    dynamic: count(/^dynamic SQL/),
    language: count(/in this language/),
    broken: count(/cannot be read|syntax error/),
    edges: statements.reduce((sum, { edges }) => sum + edges.length, 0),
    ms: Math.round(performance.now() - began),
  };
  for (const [key, value] of Object.entries(one)) sums[key] += value;
  process.stdout.write(`${file.split('/').at(-1)} ${JSON.stringify(one)}\n`);
  if (process.env.REASONS) for (const { line, reason } of lost) process.stdout.write(`  line ${line}: ${reason}\n`);
}
process.stdout.write(`${JSON.stringify(sums)}\n`);
