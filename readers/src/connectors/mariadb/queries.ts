import { SchemaCatalog } from '@idrel/core/lineage';
import { readMariaDigest } from '@idrel/core/sql';
import type { Connection, RowDataPacket } from 'mysql2/promise';
import { type AskedNames, askedFlows, type CountedStatement, foundQueries } from '../asked.ts';
import { type FoundFlow, type FoundQuery, keyOf, QUERIES_MOST } from '../types.ts';
import { readRelations } from './structure.ts';

/** The counter of statements tells of no account: whoever asked is one. */
const WHO = 'all accounts';

const MAY_NOT_LOOK = new Set([
  'ER_TABLEACCESS_DENIED_ERROR',
  'ER_DBACCESS_DENIED_ERROR',
  'ER_NO_SUCH_TABLE',
  'ER_BAD_DB_ERROR',
  'ER_UNKNOWN_SYSTEM_VARIABLE',
]);

/**
 * What the server has counted of statements since its counter was emptied, the most asked first. What readers of Idrel ask counts as asked of another schema, and
 * is left out.
 * @param begins by which words statements begin, as a regular expression
 * @returns nothing where the server does not count (`performance_schema`), or the account may not look
 */
async function counted(connection: Connection, database: string, begins: string): Promise<CountedStatement[]> {
  try {
    const [variables] = await connection.query<RowDataPacket[]>('select @@max_digest_length as longest');
    const [rows] = await connection.query<RowDataPacket[]>(
      `
        select digest_text as said, cast(sum(count_star) as char) as calls, min(digest) as number
        from performance_schema.events_statements_summary_by_digest
        where digest_text regexp ?
          and (schema_name = ? or (coalesce(schema_name, '') <> 'information_schema' and locate(?, digest_text) > 0))
        group by digest_text
        order by sum(count_star) desc, digest_text
        limit ${QUERIES_MOST}`,
      [`^(${begins}) `, database, `\`${database.replaceAll('`', '``')}\` . `],
    );
    const longest = Number(variables[0]?.longest);
    return (rows as { said: string; calls: string; number: string }[]).map(({ said, calls, number }) => {
      const { statement, text, cut } = readMariaDigest(said, longest);
      return { query: statement, text, number, calls: [[WHO, Number(calls)]], ...(cut ? { cut } : {}) };
    });
  } catch (error) {
    if (MAY_NOT_LOOK.has(String((error as { code?: string }).code))) return [];
    throw error;
  }
}

/** Relations as statements name them, in small letters, and as the catalog calls them. */
async function namesOf(connection: Connection, database: string): Promise<AskedNames> {
  const schema = database.toLowerCase();
  const catalog = new SchemaCatalog([schema], 'mariadb');
  const as = new Map<string, { name: string; columns: Map<string, string> }>();
  for (const [name, columns] of await readRelations(connection, database)) {
    const byName = new Map(columns.map((column) => [column.toLowerCase(), column]));
    as.set(name.toLowerCase(), { name, columns: byName });
    catalog.addRelation({ schema, name: name.toLowerCase(), columns: [...byName.keys()] });
  }
  return {
    catalog,
    table: ({ relation }) => keyOf(database, as.get(relation)?.name ?? relation),
    column: ({ relation, column }) =>
      keyOf(database, as.get(relation)?.name ?? relation, as.get(relation)?.columns.get(column) ?? column),
  };
}

/** Which statements are asked, how often, and what they read. Statements prepared by their clients are not among them: the server does not count these. */
export async function readMariaQueries(connection: Connection, database: string): Promise<FoundQuery[]> {
  const statements = await counted(connection, database, 'SELECT|WITH|INSERT|REPLACE');
  return statements.length === 0 ? [] : foundQueries(statements, await namesOf(connection, database));
}

/** What statements that were asked do to columns. */
export async function readMariaAskedFlows(connection: Connection, database: string): Promise<FoundFlow[]> {
  const statements = await counted(connection, database, 'INSERT|REPLACE|UPDATE|WITH|CREATE( OR REPLACE)? TABLE');
  if (statements.length === 0) return [];
  return askedFlows(statements, await namesOf(connection, database), keyOf(database), 'digest');
}
