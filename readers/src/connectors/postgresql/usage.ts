import { readScript } from '@idrel/core/lineage';
import { loadParser } from '@idrel/core/sql';
import type { ClientBase } from 'pg';
import { type FoundUse, keyOf } from '../types.ts';
import { readSchemaCatalog } from './lineageFacts.ts';

/** Statements looked at, the most frequent first. */
const MOST = 5000;

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;

interface Counted {
  readonly query: string;
  readonly calls: number;
  readonly role: number;
}

/**
 * Which tables and columns are asked for, how often and by how many roles, by what pg_stat_statements has counted since it was last reset. What the reading role
 * itself asked is left out. Statements are read with PostgreSQL's grammar; one that cannot be read counts for nothing.
 * @returns nothing where the extension is not there, or may not be read
 */
export async function readUses(client: ClientBase, database: string): Promise<Map<string, FoundUse>> {
  const uses = new Map<string, FoundUse>();
  const [place] = (
    await client.query<{ schema: string }>(
      `
        select n.nspname as schema
        from pg_extension e
        join pg_namespace n on n.oid = e.extnamespace
        where e.extname = 'pg_stat_statements'`,
    )
  ).rows;
  if (!place) return uses;
  let counted: Counted[];
  try {
    counted = (
      await client.query<Counted>(
        `
          select query, sum(calls)::float8 as calls, userid::int as role
          from ${quote(place.schema)}.pg_stat_statements
          where dbid = (select oid from pg_database where datname = current_database())
            and userid <> (select oid from pg_roles where rolname = current_user)
            and query ~* '^\\s*(select|with|insert)'
          group by query, userid
          order by 2 desc
          limit ${MOST}`,
      )
    ).rows;
  } catch {
    return uses; // it is installed but not loaded, or this role may not look
  }
  await loadParser();
  const catalog = await readSchemaCatalog(client);
  const read = new Map<string, readonly string[]>();
  const of = new Map<string, { calls: number; roles: Set<number>; statements: Set<string> }>();
  for (const { query, calls, role } of counted) {
    const keys = read.get(query) ?? keysOf(query, database, catalog);
    read.set(query, keys);
    for (const key of keys) {
      const use = of.get(key) ?? { calls: 0, roles: new Set(), statements: new Set() };
      use.calls += calls;
      use.roles.add(role);
      use.statements.add(query);
      of.set(key, use);
    }
  }
  for (const [key, { calls, roles, statements }] of of)
    uses.set(key, { calls, roles: roles.size, statements: statements.size });
  return uses;
}

/** Keys of the columns that a statement reads, and of what holds them. */
function keysOf(query: string, database: string, catalog: Parameters<typeof readScript>[1]): string[] {
  try {
    const keys = new Set<string>();
    for (const statement of readScript(query, catalog).statements)
      for (const { from } of [...statement.edges, ...statement.influences]) {
        keys.add(keyOf(database, from.schema, from.relation));
        keys.add(keyOf(database, from.schema, from.relation, from.column));
      }
    return [...keys];
  } catch {
    return [];
  }
}
