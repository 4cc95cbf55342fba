import { readDefinition, type SchemaCatalog } from '@idrel/core/lineage';
import type { ClientBase } from 'pg';
import { type FoundFlow, keyOf, placeOf, toldOf } from '../types.ts';
import { keyed, unreadable } from '../viewFlows.ts';
import { readViews } from './lineageFacts.ts';

/** The query of each view, read for what it does to columns. A definition that cannot be read becomes a flow with its problem. */
export async function readViewFlows(
  client: ClientBase,
  database: string,
  catalog: SchemaCatalog,
): Promise<FoundFlow[]> {
  const views = await readViews(client);
  if (views.length === 0) return [];
  return views.map((view): FoundFlow => {
    const base = {
      key: keyOf(database, view.schema, view.name),
      kind: view.materialised ? 'query of a materialised view' : 'query of a view',
      origin: 'view' as const,
      statement: view.definition,
      problems: [],
    };
    try {
      const kind = view.materialised ? 'materialised view' : 'view';
      const { lineage, problems } = readDefinition(
        view.definition,
        { schema: view.schema, relation: view.name, columns: view.columns, kind },
        catalog,
      );
      return keyed({ ...base, problems: problems.map(toldOf) }, lineage, (from) =>
        keyOf(database, from.schema, from.relation, from.column),
      );
    } catch (error) {
      return {
        ...base,
        edges: [],
        influences: [],
        problems: [unreadable(error)],
      };
    }
  });
}

const FOREIGN = `
  select
    n.nspname as schema, c.relname as name, w.fdwname as wrapper, s.srvname as server, s.srvoptions as server_options,
    ft.ftoptions as options,
    (
      select json_agg(json_build_array(a.attname, a.attfdwoptions) order by a.attnum)
      from pg_attribute a
      where a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped
    ) as columns
  from pg_foreign_table ft
  join pg_class c on c.oid = ft.ftrelid
  join pg_namespace n on n.oid = c.relnamespace
  join pg_foreign_server s on s.oid = ft.ftserver
  join pg_foreign_data_wrapper w on w.oid = s.srvfdw
  where w.fdwname = 'postgres_fdw'`;

interface ForeignRow {
  schema: string;
  name: string;
  server: string;
  server_options: string[] | null;
  options: string[] | null;
  columns: [string, string[] | null][];
}

const option = (options: string[] | null, name: string): string | undefined =>
  options?.find((entry) => entry.startsWith(`${name}=`))?.slice(name.length + 1);

/** Foreign tables of postgres_fdw: each column is a column of a table elsewhere, as the options of server, table and column say. */
export async function readForeignLinks(client: ClientBase, database: string): Promise<FoundFlow[]> {
  await client.query('set search_path = pg_catalog');
  const { rows } = await client.query<ForeignRow>(FOREIGN);
  return rows.map((row) => {
    const schema = option(row.options, 'schema_name') ?? row.schema;
    const table = option(row.options, 'table_name') ?? row.name;
    const key = keyOf(database, row.schema, row.name);
    const place = placeOf(
      'postgresql',
      option(row.server_options, 'host') ?? 'localhost',
      Number(option(row.server_options, 'port') ?? 5432),
      option(row.server_options, 'dbname') ?? database,
    );
    return {
      key,
      kind: 'foreign table',
      origin: 'link' as const,
      statement: `foreign table of the server ${row.server}: ${schema}.${table}`,
      problems: [],
      edges: [],
      influences: [],
      remote: row.columns.map(([name, options]) => ({
        from: { place, names: [schema, table], column: option(options, 'column_name') ?? name },
        to: keyOf(key, name),
        kind: 'copied',
      })),
    };
  });
}
