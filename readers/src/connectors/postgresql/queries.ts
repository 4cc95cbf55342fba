import { readAsked } from '@idrel/core/lineage';
import { loadParser } from '@idrel/core/sql';
import { keepable } from '@idrel/core/text';
import type { ClientBase } from 'pg';
import { type FoundQuery, GIVES_MOST, keyOf, QUERIES_MOST, QUERY_LONGEST } from '../types.ts';
import { readSchemaCatalog } from './lineageFacts.ts';

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;

/**
 * Which statements are asked, how often and by whom, and what they read, by what pg_stat_statements has counted since it was last reset. What the reading
 * role itself asked is left out. Statements are read with PostgreSQL's grammar; one that cannot be read, or reads nothing of the catalog, is left out.
 * @returns nothing where the extension is not there, or may not be read
 */
export async function readQueries(client: ClientBase, database: string): Promise<FoundQuery[]> {
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
  let counted: { query: string; calls: [role: string, calls: number][] }[];
  try {
    counted = (
      await client.query(
        `
          select query, json_agg(json_build_array(role, calls) order by calls desc, role) as calls
          from (
            select s.query, coalesce(r.rolname, s.userid::text) as role, sum(s.calls)::float8 as calls
            from ${quote(place.schema)}.pg_stat_statements s
            left join pg_roles r on r.oid = s.userid
            where s.dbid = (select oid from pg_database where datname = current_database())
              and r.rolname is distinct from current_user
              and s.query ~* '^\\s*(select|with|insert)'
            group by 1, 2
          ) each
          group by query
          order by sum(calls) desc, query
          limit ${QUERIES_MOST}`,
      )
    ).rows;
  } catch {
    return []; // it is installed but not loaded, or this role may not look
  }
  await loadParser();
  const catalog = await readSchemaCatalog(client);
  const found = new Map<string, FoundQuery>();
  for (const { query, calls } of counted) {
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

/** Each role once. */
function together(calls: FoundQuery['calls']): FoundQuery['calls'] {
  const by = new Map<string, number>();
  for (const [role, times] of calls) by.set(role, (by.get(role) ?? 0) + times);
  return [...by].sort((a, b) => b[1] - a[1]);
}
