import { readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { signedIn } from './lib.mjs';

/** Statements that take less than this are told in one line. */
const SHORT_MS = 1;
/** So many lines of a plan are told. */
const LINES = 28;
/** Statements that every request asks, and those of the worker beside it. */
const OF_OTHERS =
  /from session s join person p|from touched t|pg_snapshot_xmin|from scan_plan where enabled|from checklist$|^(?!select|with)/;

/**
 * How PostgreSQL answers the main questions at a million assets: each view is asked for over HTTP, and the plans of all statements behind it are taken from the
 * server's own log (auto_explain). Written to docs/plans.md.
 * @param client a superuser's connection to the catalog's database
 */
export async function plans(client, address, made) {
  const one = async (sql, bind) => Object.values((await client.query(sql, bind)).rows[0])[0];
  const log = join(dirname(await one('show data_directory')), 'postgres.log');
  const settings = {
    session_preload_libraries: 'auto_explain',
    'auto_explain.log_min_duration': '0',
    'auto_explain.log_analyze': 'on',
    'auto_explain.log_timing': 'off',
  };
  await client.query("load 'auto_explain'");
  const database = await one('select current_database()');
  for (const [name, value] of Object.entries(settings))
    await client.query(`alter database ${database} set ${name} = '${value}'`);
  // Connections that are there already know nothing of it.
  const reconnect = () =>
    client.query(
      "select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and application_name = 'idrel'",
    );
  try {
    await reconnect();
    const send = await signedIn(address, 'Jorun Pell');
    const asset = (sql, bind) => one(`select id from asset where ${sql} limit 1`, bind);
    const table = await asset("kind = 'view' and source_id = $1", [made.source]);
    const asked = [
      ['A page of a search', `/assets?limit=100&filter=${encodeURIComponent('ledger inv')}`],
      ['A page deep in the columns', '/assets?limit=100&sort=name&offset=700000&filter=kind%3Acolumn'],
      ['The tree below a source', `/tree?by=source&parent=${made.source}&parentType=source`],
      ['An asset', `/assets/${table}`],
      ['The columns of a table that has 1,500', `/assets/${made.wide}/children`],
      ['What could be said of an asset', `/assets/${table}/suggestions`],
      ['Lineage around a view', `/lineage?focus=${table}&upstream=3&downstream=3`],
      ['Its impact', `/lineage/impact?asset=${table}&direction=downstream`],
      ['The worklist', '/worklist'],
      ['Findings to settle', '/findings?state=to-settle&limit=200'],
      ['Coverage by domain', '/coverage?by=domain'],
      ['The list of sources', '/sources'],
      ['The history of an asset', `/journal?subject=${table}`],
    ];
    const parts = [];
    for (const [name, path] of asked) {
      // Once for what is planned or read for the first time.
      for (let round = 0; round < 3; round += 1) await send('GET', path);
      const from = statSync(log).size;
      const answer = await send('GET', path);
      await new Promise((resolve) => setTimeout(resolve, 400));
      parts.push(told(name, path, answer, plansIn(readFileSync(log).subarray(from).toString('utf8'))));
    }
    writeFileSync(
      fileURLToPath(new URL('../docs/plans.md', import.meta.url)),
      `# How the main questions are answered

Plans of PostgreSQL for what views ask, over a catalog of a million assets (960,000 of them columns), as its own log tells them (\`auto_explain\` with \`log_analyze\`): made by \`npm run bench -- million\`. Searches, counts, trees and coverage are answered from memory (decision 024): of them only what rows show is asked here. Statements below ${SHORT_MS} ms are told in one line; what every request asks (who it is, what was changed since) is left out.

${parts.join('\n\n')}
`,
    );
  } finally {
    for (const name of Object.keys(settings)) await client.query(`alter database ${database} reset ${name}`);
    await reconnect();
  }
}

/** Plans in a part of the log: the statement, how long it took, and the lines of its plan. */
function plansIn(text) {
  return text
    .split(/^(?=\d{4}-\d\d-\d\d )/m)
    .flatMap((entry) => {
      const found = /duration: ([\d.]+) ms {2}plan:\n\tQuery Text: ([\s\S]*)$/.exec(entry);
      if (!found) return [];
      const lines = found[2].split('\n').map((line) => line.replace(/^\t/, ''));
      const first = lines.findIndex((line) => /\(cost=/.test(line));
      if (first < 0) return [];
      return [
        {
          ms: Number(found[1]),
          sql: lines.slice(0, first).join(' ').replace(/\s+/g, ' ').trim(),
          plan: lines.slice(first).map((line) =>
            line
              .replace(/ ?\(cost=[^)]*\)/, '')
              .replace(/'\{[0-9a-f]{8}-[^}]*\}'/g, "'{…}'")
              .trimEnd(),
          ),
        },
      ];
    })
    .filter(({ sql }) => !OF_OTHERS.test(sql));
}

const head = (sql) => (sql.length > 160 ? `${sql.slice(0, 157)}…` : sql);
function told(name, path, answer, found) {
  const shown = path.replace(/[0-9a-f]{8}-[0-9a-f-]{27}/g, '…');
  const whole = found.reduce((sum, { ms }) => sum + ms, 0);
  const lines = [
    `## ${name}`,
    '',
    `\`GET ${decodeURIComponent(shown)}\`: ${Math.ceil(answer.length / 1024)} kB, ${found.length} ${found.length === 1 ? 'statement' : 'statements'}, ${whole.toFixed(1)} ms in PostgreSQL.`,
  ];
  // The same asked several times is told once, the slowest of it.
  const same = new Map();
  for (const one of found.sort((a, b) => b.ms - a.ms)) same.set(one.sql, [...(same.get(one.sql) ?? []), one]);
  for (const [sql, asked] of same) {
    const [{ ms, plan }] = asked;
    const times = asked.length > 1 ? `, the slowest of ${asked.length}` : '';
    lines.push('', `${ms.toFixed(1)} ms${times}: \`${head(sql).replaceAll('`', "'")}\``);
    if (ms < SHORT_MS) continue;
    lines.push('', '```', ...plan.slice(0, LINES).map((line) => (line.length > 170 ? `${line.slice(0, 167)}…` : line)));
    if (plan.length > LINES) lines.push(`… ${plan.length - LINES} lines more`);
    lines.push('```');
  }
  return lines.join('\n');
}
