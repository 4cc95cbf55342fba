import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { checkNode, ensureBuild, ensurePackages, ROOT } from './lib/house.mjs';
import { say } from './lib/say.mjs';

// npm run bench:lineage: precision and recall of lineage over the statements labelled by hand in bench/labelled/, with what differs.
// With --write the table also goes into docs/lineage-quality.md, between its marks.
checkNode();
ensurePackages();
ensureBuild();
const lineage = await import('../core/dist/lineage/index.js');
const sql = await import('../core/dist/sql/index.js');
const { DIALECTS, judge, precision, recall } = await import('../bench/labelled.mjs');
await sql.loadParser();

const figure = (value) => value.toFixed(3);
const told = DIALECTS.map((dialect) => judge({ ...lineage, ...sql }, dialect));
const rows = told.flatMap(({ dialect, cases, sums }) => [
  `| ${dialect} | ${cases} | values | ${figure(precision(sums.values))} | ${figure(recall(sums.values))} | ${sums.values.right} | ${sums.values.wrong} | ${sums.values.missed} |`,
  `| ${dialect} | | what happens to them | ${figure(precision(sums.kinds))} | | ${sums.kinds.right} | ${sums.kinds.wrong} | |`,
  `| ${dialect} | | what decides rows | ${figure(precision(sums.rows))} | ${figure(recall(sums.rows))} | ${sums.rows.right} | ${sums.rows.wrong} | ${sums.rows.missed} |`,
]);
const differing = told.flatMap(({ dialect, differing: some }) =>
  some.map(({ sql: statement, apart }) => `- ${dialect}: \`${statement.replace(/\s+/g, ' ')}\`: ${apart.join('; ')}`),
);
const table = [
  '| dialect | statements | edges of | precision | recall | right | wrong | missed |',
  '|---|---|---|---|---|---|---|---|',
  ...rows,
  '',
  differing.length > 0 ? 'What differs:' : 'Nothing differs.',
  ...differing,
].join('\n');
say(table);
if (process.argv.includes('--write')) {
  const path = join(ROOT, 'docs/lineage-quality.md');
  const text = readFileSync(path, 'utf8');
  writeFileSync(
    path,
    text.replace(/(<!-- labelled -->\n)[\s\S]*?(\n<!-- \/labelled -->)/, (_, from, to) => `${from}${table}${to}`),
  );
}
