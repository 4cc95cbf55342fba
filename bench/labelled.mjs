import { readFileSync } from 'node:fs';
import { join } from 'node:path';

// How well lineage of statements is read, against labels made by hand in bench/labelled/: by value edges, by what happens on them, and by what decides rows.

const FOLDER = join(import.meta.dirname, 'labelled');
export const DIALECTS = ['postgresql', 'mariadb', 'sqlite'];
const KINDS = { c: 'copied', t: 'transformed', a: 'aggregated', m: 'masked' };
const PATH = ['pg_catalog', 'public'];
const MAIN = ['main'];

/** The tables of a dialect's set, and its cases: a statement with the labels that are true of it. */
export function readSet(dialect) {
  const [, tables = '', ...cases] = readFileSync(join(FOLDER, `${dialect}.txt`), 'utf8')
    .split(/^===$/m)
    .map((part) => part.trim());
  return {
    tables,
    cases: cases.map((text) => {
      const lines = text.split('\n');
      const said = lines.findIndex((line) => /^=( |$)/.test(line));
      const labels = (lines[said] ?? '')
        .slice(1)
        .split(';')
        .flatMap((label) => label.trim() || []);
      return {
        sql: lines.slice(0, said).join('\n'),
        values: labels.flatMap((label) => {
          const found = /^(.+)>(.+) ([ctam])$/.exec(label);
          return found ? [[`${found[1]}>${found[2]}`, KINDS[found[3]]]] : [];
        }),
        rows: labels.filter((label) => label.includes('?')),
      };
    }),
  };
}

/** What Idrel reads of a statement, in the shape of the labels. */
function told(lineages) {
  const values = new Map();
  const rows = new Set();
  for (const { kind, target, edges, influences } of lineages) {
    if (kind === 'select' || kind === 'function') continue;
    for (const { from, to, kind: how } of edges)
      values.set(`${from.relation}.${from.column}>${target.relation}.${to}`, how);
    for (const { from, kind: how } of influences)
      if (how !== 'unused') rows.add(`${from.relation}.${from.column}?${target.relation}`);
  }
  return { values, rows };
}

function readCase(core, dialect, tables, sql) {
  const { readDefinition, readScript, SchemaCatalog, queryOfSqliteView } = core;
  const catalog = new SchemaCatalog(dialect === 'postgresql' ? PATH : MAIN, dialect);
  readScript(tables, catalog);
  if (dialect !== 'sqlite') return told(readScript(sql, catalog).statements);
  try {
    const named = /view seen *\(([^)]*)\)/.exec(sql)?.[1]?.split(',') ?? [];
    const target = { schema: 'main', relation: 'seen', columns: named.map((name) => name.trim()), kind: 'view' };
    return told([readDefinition(queryOfSqliteView(sql) ?? sql, target, catalog).lineage]);
  } catch {
    return told([]);
  }
}

const none = () => ({ right: 0, wrong: 0, missed: 0 });
export const precision = ({ right, wrong }) => (right + wrong === 0 ? 1 : right / (right + wrong));
export const recall = ({ right, missed }) => (right + missed === 0 ? 1 : right / (right + missed));

/** Judges a dialect's set. @param core functions of the core that read */
export function judge(core, dialect) {
  const { tables, cases } = readSet(dialect);
  const sums = { values: none(), kinds: none(), rows: none() };
  const differing = [];
  for (const { sql, values, rows } of cases) {
    const read = readCase(core, dialect, tables, sql);
    const apart = [];
    const count = (sum, wanted, found) => {
      for (const one of found) {
        sum[wanted.has(one) ? 'right' : 'wrong'] += 1;
        if (!wanted.has(one)) apart.push(`wrong: ${one}`);
      }
      for (const one of wanted)
        if (!found.has(one)) {
          sum.missed += 1;
          apart.push(`missed: ${one}`);
        }
    };
    count(sums.values, new Set(values.map(([edge]) => edge)), new Set(read.values.keys()));
    count(sums.rows, new Set(rows), read.rows);
    for (const [edge, kind] of values) {
      if (!read.values.has(edge)) continue;
      sums.kinds[read.values.get(edge) === kind ? 'right' : 'wrong'] += 1;
      if (read.values.get(edge) !== kind) apart.push(`${edge} is ${kind}, and was read as ${read.values.get(edge)}`);
    }
    if (apart.length > 0) differing.push({ sql, apart });
  }
  return { dialect, cases: cases.length, sums, differing };
}
