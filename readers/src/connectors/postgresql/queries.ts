import type { SchemaCatalog } from '@idrel/core/lineage';
import type { ClientBase } from 'pg';
import { type AskedNames, askedFlows, type CountedStatement, foundQueries } from '../asked.ts';
import { type FoundFlow, type FoundQuery, keyOf, QUERIES_MOST } from '../types.ts';
import { readSchemaCatalog } from './lineageFacts.ts';

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;

/**
 * What pg_stat_statements has counted since it was last reset, the most asked first; what the reading role itself asked is left out.
 * @param begins by which words statements begin, as a regular expression
 * @returns nothing where the extension is not there, or may not be read
 */
async function counted(client: ClientBase, begins: string): Promise<CountedStatement[]> {
  const [place] = (
    await client.query<{ schema: string }>(
      `
        select n.nspname as schema
        from pg_extension e
        join pg_namespace n on n.oid = e.extnamespace
        where e.extname = 'pg_stat_statements'`,
    )
  ).rows;
  if (!place) return [];
  try {
    return (
      await client.query<{ query: string; calls: [role: string, calls: number][]; number: string }>(
        `
          select query, json_agg(json_build_array(role, calls) order by calls desc, role) as calls, min(number) as number
          from (
            select
              s.query, coalesce(r.rolname, s.userid::text) as role, sum(s.calls)::float8 as calls,
              min(s.queryid)::text as number
            from ${quote(place.schema)}.pg_stat_statements s
            left join pg_roles r on r.oid = s.userid
            where s.dbid = (select oid from pg_database where datname = current_database())
              and r.rolname is distinct from current_user
              and s.query ~* $1
            group by 1, 2
          ) each
          group by query
          order by sum(calls) desc, query
          limit ${QUERIES_MOST}`,
        [`^\\s*(${begins})\\M`],
      )
    ).rows;
  } catch {
    return []; // it is installed but not loaded, or this role may not look
  }
}

const namesOf = (database: string, catalog: SchemaCatalog): AskedNames => ({
  catalog,
  column: ({ schema, relation, column }) => keyOf(database, schema, relation, column),
  table: ({ schema, relation }) => keyOf(database, schema, relation),
});

/** Which statements are asked, how often and by whom, and what they read. */
export async function readQueries(client: ClientBase, database: string): Promise<FoundQuery[]> {
  const statements = await counted(client, 'select|with|insert');
  if (statements.length === 0) return [];
  return foundQueries(statements, namesOf(database, await readSchemaCatalog(client)));
}

/** How statements begin that may write what they read: what makes a view, or a table for one session alone, is none of them. */
const WRITES = 'insert|update|merge|with|create\\s+(unlogged\\s+)?table';

/** What statements that were asked do to columns. @param catalog what statements may name; its search path is that which sessions begin with */
export async function readAskedFlows(
  client: ClientBase,
  database: string,
  catalog: SchemaCatalog,
): Promise<FoundFlow[]> {
  return askedFlows(await counted(client, WRITES), namesOf(database, catalog), keyOf(database), 'queryid');
}
