import { readFile } from 'node:fs/promises';
import { type ColumnName, readScript, SchemaCatalog, type Unresolved } from '@idrel/core/lineage';
import { loadParser } from '@idrel/core/sql';
import { CliProblem } from './problem.ts';

const read = (file: string): Promise<string> =>
  readFile(file, 'utf8').catch(() => {
    throw new CliProblem(`${file}: it cannot be read.`, 'Check the path.');
  });
const written = ({ schema, relation, column }: ColumnName) => `${schema}.${relation}.${column}`;

/** `idrel lineage FILE.sql`: edges between columns, what decides rows, and what could not be settled. Exit status 3 when a statement was lost. */
export async function lineage(
  files: string[],
  options: { schema?: string; dialect: string; json?: boolean },
): Promise<void> {
  if (options.dialect !== 'postgresql' && options.dialect !== 'mariadb')
    throw new CliProblem(
      `--dialect ${options.dialect}: it is none that is read.`,
      'Use --dialect postgresql or --dialect mariadb.',
    );
  await loadParser();
  const catalog = options.dialect === 'mariadb' ? new SchemaCatalog(['main'], 'mariadb') : new SchemaCatalog();
  if (options.schema) {
    const { unresolved } = readScript(await read(options.schema), catalog);
    // A schema defines: what does something with data in it is of no account here.
    for (const { line, reason, lost } of unresolved)
      if (lost) process.stderr.write(`${options.schema}, line ${line}: ${reason}\n`);
  }
  const edges = new Map<string, { from: string; to: string; kind: string }>();
  const influences = new Map<string, { from: string; to: string; kind: string }>();
  const unresolved: (Unresolved & { file: string })[] = [];
  let statements = 0;
  for (const file of files) {
    const script = readScript(await read(file), catalog);
    unresolved.push(...script.unresolved.map((entry) => ({ ...entry, file })));
    statements += script.read;
    for (const statement of script.statements) {
      const target = `${statement.target.schema}.${statement.target.relation}`;
      for (const { from, to, kind } of statement.edges)
        edges.set(`${written(from)}>${target}.${to}>${kind}`, { from: written(from), to: `${target}.${to}`, kind });
      for (const { from, kind } of statement.influences)
        influences.set(`${written(from)}>${target}>${kind}`, { from: written(from), to: target, kind });
    }
  }
  const result = {
    edges: [...edges.values()],
    influences: [...influences.values()],
    unresolved: unresolved.map(({ file, statement, line, reason, lost }) => ({ file, statement, line, reason, lost })),
  };
  const lost = unresolved.filter((entry) => entry.lost).length;
  if (options.json) process.stdout.write(`${JSON.stringify({ ...result, read: statements, lost }, null, 1)}\n`);
  else {
    for (const edge of result.edges) process.stdout.write(`${edge.from} → ${edge.to}  ${edge.kind}\n`);
    for (const influence of result.influences)
      process.stdout.write(`${influence.from} decides rows of ${influence.to}  ${influence.kind}\n`);
    for (const { file, line, reason, statement } of result.unresolved)
      process.stdout.write(
        `${files.length > 1 ? `${file}, ` : ''}line ${line}: ${reason}: ${statement.split('\n')[0]}\n`,
      );
  }
  const told = unresolved.length - lost;
  process.stderr.write(
    `${statements} statements read, ${result.edges.length} edges${told > 0 ? `, ${told} told of as not traced` : ''}${lost > 0 ? `; ${lost} lost, named above` : ''}.\n`,
  );
  if (lost > 0) process.exitCode = 3;
}
