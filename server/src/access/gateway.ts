import type { TableExplained } from '@idrel/contract/access';
import { decideTable, type Person, RefusedStatement, rewriteSelect, type TableDecision } from '@idrel/core/access';
import { loadParser } from '@idrel/core/sql';
import { connectToPostgres } from '@idrel/readers/connectors';
import Cursor from 'pg-cursor';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { ApiProblem, invalid } from '../platform/problems.ts';
import { connectorInput } from '../sources/index.ts';
import { policiesInForce, readPeople, readTables, type TableFacts } from './facts.ts';

export interface Prepared {
  readonly sql: string;
  readonly tables: readonly TableExplained[];
}

export function explained(decision: TableDecision): TableExplained {
  return {
    tableId: decision.tableId,
    path: `${decision.schema}.${decision.name}`,
    access: decision.access,
    columns: decision.columns.map(({ name, access, mask, reasons }) => ({ name, access, mask, reasons })),
    rowLimits: decision.rowLimits.map(({ column, values, reason }) => ({ column, values, policy: reason.policy })),
  };
}

/** Decides for every table that the person's statement names, and rewrites the statement accordingly. */
export async function prepare(db: Db, config: Config, personId: string, sourceId: string, sql: string): Promise<Prepared> {
  await loadParser();
  const [person] = await readPeople(db, [personId]);
  if (!person) throw new ApiProblem(404, 'not-found', 'The person is not there.');
  const policies = await policiesInForce(db);
  const tables = await readTables(db, 't.source_id = $1', [sourceId]);
  const decided = new Map<string, TableDecision>();
  const decide = (table: TableFacts): TableDecision => {
    const known = decided.get(table.id) ?? decideTable(policies, person satisfies Person, table);
    decided.set(table.id, known);
    return known;
  };
  const lookup = (schema: string | undefined, name: string) => {
    const found = tables.filter((table) => table.name === name && (schema === undefined || table.schema === schema));
    const [only] = found;
    return found.length > 1 ? ('ambiguous' as const) : only && decide(only);
  };
  try {
    const rewritten = rewriteSelect(sql, lookup, { salt: config.key.subarray(0, 8).toString('hex') });
    return { sql: rewritten.sql, tables: rewritten.tables.map(explained) };
  } catch (error) {
    if (error instanceof RefusedStatement) throw refused(error, [...decided.values()]);
    throw error;
  }
}

const MENDS: Record<RefusedStatement['code'], string> = {
  syntax: 'Correct the statement at the place named.',
  statement: 'Send one SELECT.',
  construct: 'Write the query without it.',
  function: 'Write the query without it.',
  type: 'Use a plain type such as text, integer or date.',
  'unknown-table': 'Write schema and name as the catalog shows them.',
  'no-access': 'Ask the owner for access, or choose another table.',
};

const refused = (error: RefusedStatement, tables: readonly TableDecision[]) =>
  new ApiProblem(error.code === 'no-access' ? 403 : 422, `refused-${error.code}`, error.message, { mend: MENDS[error.code], current: tables.map(explained) });

/**
 * What is told of an error of the database. Its own text can hold values ("invalid input syntax for integer: …"), also of rows that
 * are not to be seen: so it is never passed on, only what kind of error it was.
 */
function tellError(error: unknown, tables: readonly TableExplained[]): ApiProblem {
  const { code = '', message } = error as { code?: string; message: string };
  if (code === '42703' || code === '42P01' || code === '42702' || code === '42P10' || code === '42803') {
    const name = /column "?([^"]+)"?/.exec(message)?.[1]?.split(/[ .]/).at(-1);
    const hidden = tables.flatMap((table) => table.columns.filter((column) => column.name === name && column.access === 'refused').map((column) => ({ table, column })))[0];
    if (hidden) {
      const by = hidden.column.reasons.map((reason) => `“${reason.policy}”`).join(', ');
      return new ApiProblem(403, 'refused-column', `${hidden.table.path}.${hidden.column.name} may not be read${by ? `: denied by ${by}` : ': no policy allows it'}.`, {
        mend: 'Leave the column out, or ask its owner for access.',
        current: tables,
      });
    }
    return invalid(`${message.split('\n')[0]}.`, 'Names of columns are those that the catalog shows.');
  }
  if (code === '57014') return new ApiProblem(422, 'query-stopped', 'The query took longer than 30 seconds and was stopped.', { mend: 'Read fewer rows, or add a condition.' });
  if (code.startsWith('22')) return invalid(`A value could not be computed (${code}).`, 'Check conversions and divisions. The value itself is not shown: it may be one that you may not see.');
  if (code.startsWith('42')) return invalid(`The database does not accept the query (${code}).`, 'Check types of arguments and the names used.');
  return new ApiProblem(502, 'source-error', `The source could not answer (${code || 'no code'}).`, { mend: 'Test the connection of the source.' });
}

const asText = { getTypeParser: () => (value: string) => value };
type TextRow = (string | null)[];

/**
 * Runs a prepared statement in a read-only transaction with a time limit, and hands its rows over in batches, as text.
 * @param take gets the names of the columns and each batch; it may wait, and the database waits with it
 * @returns number of rows, and whether there were more than `limit`
 */
export async function runPrepared(
  db: Db,
  config: Config,
  sourceId: string,
  prepared: Prepared,
  limit: number,
  take: (columns: string[], rows: TextRow[]) => Promise<void> | void,
): Promise<{ rows: number; capped: boolean }> {
  const input = await connectorInput(db, config, sourceId);
  if (input.kind !== 'postgresql') throw invalid('The gateway speaks to PostgreSQL; this source is of another kind.', 'Choose a PostgreSQL source.');
  const client = await connectToPostgres(input, { statementTimeout: 30_000 }).catch((error: Error) => {
    throw new ApiProblem(502, 'source-error', error.message, { mend: (error as { mend?: string }).mend ?? '' });
  });
  try {
    await client.query('begin transaction read only');
    const cursor = client.query(new Cursor<TextRow>(prepared.sql, [], { rowMode: 'array', types: asText as never }));
    let count = 0;
    for (;;) {
      const wanted = Math.min(5000, limit - count + 1);
      const rows = await cursor.read(wanted);
      const fields = (cursor as unknown as { _result: { fields: { name: string }[] } })._result.fields.map((field) => field.name);
      const kept = rows.slice(0, limit - count);
      await take(fields, kept);
      count += kept.length;
      if (rows.length > kept.length) return { rows: count, capped: true };
      if (rows.length < wanted) return { rows: count, capped: false };
    }
  } catch (error) {
    throw error instanceof ApiProblem ? error : tellError(error, prepared.tables);
  } finally {
    await client.end().catch(() => undefined);
  }
}
