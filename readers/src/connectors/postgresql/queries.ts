import { type ColumnName, readAsked, readScript, type SchemaCatalog } from '@idrel/core/lineage';
import { loadParser, printOf } from '@idrel/core/sql';
import { keepable } from '@idrel/core/text';
import type { ClientBase } from 'pg';
import { takingTurns } from '../turns.ts';
import {
  type FoundFlow,
  type FoundQuery,
  GIVES_MOST,
  KEY_SEPARATOR,
  keyOf,
  QUERIES_MOST,
  QUERY_LONGEST,
} from '../types.ts';
import { attempt, toldFlow } from '../written.ts';
import { readSchemaCatalog } from './lineageFacts.ts';

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;

interface Counted {
  readonly query: string;
  readonly calls: [role: string, calls: number][];
}

/**
 * What pg_stat_statements has counted since it was last reset, the most asked first; what the reading role itself asked is left out.
 * @param begins by which words statements begin, as a regular expression
 * @returns nothing where the extension is not there, or may not be read
 */
async function counted(client: ClientBase, begins: string): Promise<Counted[]> {
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
      await client.query<Counted>(
        `
          select query, json_agg(json_build_array(role, calls) order by calls desc, role) as calls
          from (
            select s.query, coalesce(r.rolname, s.userid::text) as role, sum(s.calls)::float8 as calls
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

/**
 * Which statements are asked, how often and by whom, and what they read. Statements are read with PostgreSQL's grammar; one that cannot be read, or reads nothing
 * of the catalog, is left out.
 */
export async function readQueries(client: ClientBase, database: string): Promise<FoundQuery[]> {
  const statements = await counted(client, 'select|with|insert');
  if (statements.length === 0) return [];
  await loadParser();
  const catalog = await readSchemaCatalog(client);
  const found = new Map<string, FoundQuery>();
  for (const { query, calls } of statements) {
    const asked = readAsked(query, catalog);
    if (!asked) continue;
    const known = found.get(asked.print);
    found.set(asked.print, {
      print: asked.print,
      text: known ? known.text : asked.text.length > QUERY_LONGEST ? '' : keepable(asked.text),
      calls: known ? together([...known.calls, ...calls]) : calls,
      reads: asked.reads.map(({ schema, relation, column, how }) => [
        keyOf(database, schema, relation, ...(column === null ? [] : [column])),
        how,
      ]),
      gives: known ? known.gives : asked.gives.slice(0, GIVES_MOST).map(keepable),
      whole: asked.whole && (known?.whole ?? true),
    });
  }
  return [...found.values()];
}

/** How statements begin that may write what they read: what makes a view, or a table for one session alone, is none of them. */
const WRITES = 'insert|update|merge|with|create\\s+(unlogged\\s+)?table';

/**
 * What statements that were asked do to columns: loads of the night that stand in no function and in no script that is read. Each is a flow at the table that it
 * writes. Its text stays where statements that were asked are shown, to who may see all that they name. Statements that only say values tell of nothing.
 * @param catalog what statements may name; its search path is that which sessions begin with
 */
export async function readAskedFlows(
  client: ClientBase,
  database: string,
  catalog: SchemaCatalog,
): Promise<FoundFlow[]> {
  const flows = new Map<string, FoundFlow>();
  const ends = {
    column: ({ schema, relation, column }: ColumnName) => keyOf(database, schema, relation, column),
    table: ({ schema, relation }: Pick<ColumnName, 'schema' | 'relation'>) => keyOf(database, schema, relation),
  };
  const rest = takingTurns();
  for (const { query } of await counted(client, WRITES)) {
    if (query.length > QUERY_LONGEST) continue;
    const read = attempt(query, QUERY_LONGEST, () => readScript(query, catalog.within()));
    const written = read.statements.find(
      ({ kind, target, edges }) =>
        kind !== 'select' &&
        kind !== 'function' &&
        edges.length > 0 &&
        catalog.relation(target.schema, target.relation),
    );
    await rest();
    if (!written) continue;
    const asset = ends.table(written.target);
    const key = [asset, 'asked', printOf(query)].join(KEY_SEPARATOR);
    const flow = toldFlow({ key, asset, kind: 'asked statement', origin: 'asked', statement: '' }, read, ends);
    // Counters keep the values of some statements: no text of them goes further than this.
    flows.set(key, {
      ...flow,
      problems: flow.problems.map((problem) => ({ ...problem, statement: null })),
      edges: flow.edges.map(({ expression: _, ...edge }) => edge),
    });
  }
  return [...flows.values()];
}

/** Each role once. */
function together(calls: FoundQuery['calls']): FoundQuery['calls'] {
  const by = new Map<string, number>();
  for (const [role, times] of calls) by.set(role, (by.get(role) ?? 0) + times);
  return [...by].sort((a, b) => b[1] - a[1]);
}
