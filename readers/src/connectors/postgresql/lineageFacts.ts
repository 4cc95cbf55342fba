import { type KnownFunction, type KnownRelation, SchemaCatalog } from '@idrel/core/lineage';
import type { ClientBase } from 'pg';
import { NOT_OF_EXTENSION } from './columns.ts';

/** A view with the text PostgreSQL itself gives for it. */
export interface ViewFact {
  readonly oid: number;
  readonly schema: string;
  readonly name: string;
  readonly materialised: boolean;
  readonly columns: string[];
  readonly definition: string;
}

/** Relations of every schema, with their columns in order: what a view's definition can name. */
const RELATIONS = `
  select
    n.nspname as schema, c.relname as name,
    coalesce(
      array_agg(a.attname::text order by a.attnum) filter (where a.attnum > 0 and not a.attisdropped), '{}'
    ) as columns,
    json_object_agg(
      a.attname, json_build_object('schema', rn.nspname, 'relation', rc.relname)
    ) filter (where rc.oid is not null and a.attnum > 0 and not a.attisdropped) as "rowTypes"
  from pg_catalog.pg_class c
  join pg_catalog.pg_namespace n on n.oid = c.relnamespace
  left join pg_catalog.pg_attribute a on a.attrelid = c.oid
  left join pg_catalog.pg_type t on t.oid = a.atttypid
  left join pg_catalog.pg_type e on e.oid = t.typelem and t.typcategory = 'A'
  left join pg_catalog.pg_class rc on rc.oid = coalesce(nullif(t.typrelid, 0), nullif(e.typrelid, 0))
    and rc.relkind in ('r', 'p', 'v', 'm', 'f')
  left join pg_catalog.pg_namespace rn on rn.oid = rc.relnamespace
  where c.relkind in ('r', 'p', 'v', 'm', 'f') and n.nspname !~ '^pg_(toast|temp)'
  group by 1, 2`;

/** Functions that lineage must know: aggregates, those that give rows with named columns, and those that give a relation's row type. */
const FUNCTIONS = `
  select
    n.nspname as schema, p.proname as name, p.prokind = 'a' as aggregate,
    case
      when p.proargmodes is not null then (
        select array_agg(arg order by i)
        from unnest(p.proargnames, p.proargmodes) with ordinality as u(arg, mode, i)
        where mode in ('o', 'b', 't')
      )
    end as columns,
    rn.nspname as returns_schema, rc.relname as returns_relation
  from pg_catalog.pg_proc p
  join pg_catalog.pg_namespace n on n.oid = p.pronamespace
  join pg_catalog.pg_type t on t.oid = p.prorettype
  left join pg_catalog.pg_class rc on rc.oid = t.typrelid and rc.relkind in ('r', 'p', 'v', 'm', 'f')
  left join pg_catalog.pg_namespace rn on rn.oid = rc.relnamespace
  where p.prokind = 'a'
    or rc.oid is not null
    or 'o' = any(p.proargmodes)
    or 't' = any(p.proargmodes)
    or 'b' = any(p.proargmodes)`;

/** Types of rows that belong to no relation. */
const TYPES = `
  select n.nspname as schema, c.relname as name, array_agg(a.attname::text order by a.attnum) as columns
  from pg_catalog.pg_class c
  join pg_catalog.pg_namespace n on n.oid = c.relnamespace
  join pg_catalog.pg_attribute a on a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped
  where c.relkind = 'c'
  group by 1, 2`;

/** Where a session looks for names unless it is told otherwise. */
const PATH = 'select current_schemas(false)::text[] as schemas';

/**
 * Everything that reading view definitions of one database needs. The connection's search_path is set so that
 * PostgreSQL writes every name outside of pg_catalog with its schema.
 */
export async function readSchemaCatalog(client: ClientBase): Promise<SchemaCatalog> {
  await client.query('reset search_path');
  const path = (await client.query<{ schemas: string[] }>(PATH)).rows[0]?.schemas ?? [];
  const catalog = new SchemaCatalog(['pg_catalog', ...new Set([...path, 'public'])]);
  await client.query("set search_path = ''");
  const relations = await client.query<KnownRelation & { rowTypes: KnownRelation['rowTypes'] | null }>(RELATIONS);
  for (const { rowTypes, ...relation } of relations.rows)
    catalog.addRelation({ ...relation, ...(rowTypes ? { rowTypes } : {}) });
  type FunctionRow = {
    schema: string;
    name: string;
    aggregate: boolean;
    columns: string[] | null;
    returns_schema: string | null;
    returns_relation: string | null;
  };
  const functions = await client.query<FunctionRow>(FUNCTIONS);
  for (const row of functions.rows) {
    const fn: KnownFunction = {
      schema: row.schema,
      name: row.name,
      aggregate: row.aggregate,
      ...(row.columns ? { columns: row.columns } : {}),
      ...(row.returns_schema && row.returns_relation
        ? { returns: { schema: row.returns_schema, relation: row.returns_relation } }
        : {}),
    };
    catalog.addFunction(fn);
  }
  const types = await client.query<{ schema: string; name: string; columns: string[] }>(TYPES);
  for (const { schema, name, columns } of types.rows) catalog.addType(schema, name, columns);
  return catalog;
}

const VIEWS = `
  select c.oid::int as oid, n.nspname as schema, c.relname as name, c.relkind = 'm' as materialised,
         pg_catalog.pg_get_viewdef(c.oid) as definition,
         (select coalesce(array_agg(a.attname::text order by a.attnum), '{}') from pg_catalog.pg_attribute a
          where a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped) as columns
  from pg_catalog.pg_class c join pg_catalog.pg_namespace n on n.oid = c.relnamespace
  where c.relkind in ('v', 'm') and ($1 or (n.nspname !~ '^pg_' and n.nspname <> 'information_schema' and ${NOT_OF_EXTENSION}))
  order by 2, 3`;

/** All views and materialised views; those of the system's own schemas only when asked for. Every name outside of pg_catalog comes with its schema. */
export async function readViews(
  client: ClientBase,
  options: { system: boolean } = { system: false },
): Promise<ViewFact[]> {
  await client.query("set search_path = ''");
  const { rows } = await client.query<ViewFact>(VIEWS, [options.system]);
  return rows;
}
