import type { TestStep } from '@idrel/contract/sources';
import type pg from 'pg';
import { inWordsOf, reachSteps } from '../network.ts';
import { runSteps } from '../steps.ts';
import { type ConnectorInput, SourceProblem } from '../types.ts';
import { NOT_OF_EXTENSION, OURS } from './columns.ts';
import { connect, explainConnectError } from './connect.ts';

const READABLE = `
  select n.nspname as schema, count(*)::int as tables,
         count(*) filter (where has_schema_privilege(n.oid, 'usage') and has_table_privilege(c.oid, 'select'))::int as readable
  from pg_class c join pg_namespace n on n.oid = c.relnamespace
  where c.relkind in ('r', 'p', 'v', 'm', 'f') and ${OURS} and ${NOT_OF_EXTENSION}
  group by 1 order by 1`;

const DESCRIBED = `
  select count(*)
  from pg_class c
  join pg_namespace n on n.oid = c.relnamespace
  join pg_attribute a on a.attrelid = c.oid
  where c.relkind in ('r', 'p', 'v', 'm', 'f')
    and not c.relispartition
    and a.attnum > 0
    and not a.attisdropped
    and ${OURS}
    and ${NOT_OF_EXTENSION}`;

/** Tests a PostgreSQL source: resolve, connect, authenticate, rights to read the catalog, rights to read data. */
export async function testPostgres(input: ConnectorInput): Promise<TestStep[]> {
  const { address } = input;
  const words = inWordsOf(explainConnectError, input);
  let client: pg.Client | undefined;
  const open = (): pg.Client => client as pg.Client;
  try {
    return await runSteps([
      ...reachSteps(input, words),
      [
        'Authenticate',
        async () => {
          if (!input.secret)
            throw new SourceProblem('The source has no credential.', 'Choose or make a credential for it.');
          client = await words(connect(input));
          return `Signed in as ${input.secret.username} to ${address.database}.`;
        },
      ],
      [
        'Rights to read the catalog',
        async () => {
          const { rows } = await open().query<{ count: string }>(DESCRIBED);
          return `${Number(rows[0]?.count ?? 0).toLocaleString('en')} columns are described.`;
        },
      ],
      ['Rights to read data', async () => rightsToRead(await open().query(READABLE), input)],
    ]);
  } finally {
    await client?.end().catch(() => undefined);
  }
}

function rightsToRead(
  result: { rows: { schema: string; tables: number; readable: number }[] },
  { secret }: ConnectorInput,
): string {
  const total = result.rows.reduce((sum, row) => sum + row.tables, 0);
  const readable = result.rows.reduce((sum, row) => sum + row.readable, 0);
  const closed = result.rows.filter((row) => row.readable < row.tables);
  const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`;
  const role = quoted(secret?.username ?? '');
  const grants = closed
    .map(
      (row) =>
        `GRANT USAGE ON SCHEMA ${quoted(row.schema)} TO ${role};\nGRANT SELECT ON ALL TABLES IN SCHEMA ${quoted(row.schema)} TO ${role};`,
    )
    .join('\n');
  if (total > 0 && readable === 0)
    throw new SourceProblem(`None of the ${total} tables and views can be read by this role.`, grants);
  if (closed.length > 0) return `${readable} of ${total} tables and views can be read. For the rest:\n${grants}`;
  return `All ${total} tables and views can be read.`;
}
