import type { ValueType } from '@idrel/core/recognition';
import { loadParser } from '@idrel/core/sql';
import type { Connection } from 'mysql2/promise';
import { type RelationFacts, relationAssets, withChecks, withObjects } from '../relations.ts';
import { type FoundFlow, type Known, keyOf, type Structure } from '../types.ts';
import { readFlow } from '../viewFlows.ts';
import { rows } from './connect.ts';
import { permittedBy, readMariaDetails, readMariaObjects } from './details.ts';

const TABLES =
  'select table_name as name, table_type as type, table_comment as comment, table_rows as n, data_length as bytes from information_schema.tables where table_schema = ? order by 1';
const COLUMNS = `
  select table_name as relation, column_name as name, ordinal_position as position, column_type as type, data_type as base, is_nullable as nullable, column_default as value,
         column_key as k, extra, column_comment as comment
  from information_schema.columns where table_schema = ? order by table_name, ordinal_position`;
const KEYS = `
  select table_name as relation, column_name as name, referenced_table_name as ref_table, referenced_column_name as ref_column
  from information_schema.key_column_usage where table_schema = ? and referenced_table_name is not null`;
const VIEWS =
  'select table_name as name, view_definition as definition from information_schema.views where table_schema = ? order by 1';

const INTEGERS = new Set(['tinyint', 'smallint', 'mediumint', 'int', 'bigint', 'year']);
/** What detectors make of a data type. */
export function mariaValueType(base: string): ValueType {
  const type = base.toLowerCase();
  if (INTEGERS.has(type)) return 'integer';
  if (['decimal', 'float', 'double'].includes(type)) return 'decimal';
  if (type === 'date') return 'date';
  return /char|text|enum|set|uuid|inet|json/.test(type) ? 'text' : 'other';
}

/** Views without the right to see their definition give none. */
const readViews = async (connection: Connection, database: string) =>
  (await rows<{ name: string; definition: string | null }>(connection, VIEWS, database)).filter(
    (view): view is { name: string; definition: string } => Boolean(view.definition),
  );

/** Reads everything that information_schema says about the objects of one database. */
export async function readMariaStructure(
  connection: Connection,
  database: string,
  progress: (objects: number, columns: number) => void,
  known?: Known,
): Promise<Structure> {
  const [about] = await rows<{ version: string }>(connection, 'select version() as version, ? as asked', database);
  const tables = await rows<{
    name: string;
    type: string;
    comment: string;
    n: string | number | null;
    bytes: string | number | null;
  }>(connection, TABLES, database);
  progress(tables.length, 0);
  type ColumnRow = {
    relation: string;
    name: string;
    position: number | string;
    type: string;
    base: string;
    nullable: string;
    value: string | null;
    k: string;
    extra: string;
    comment: string;
  };
  const columns = await rows<ColumnRow>(connection, COLUMNS, database);
  progress(tables.length, columns.length);
  const keys = await rows<{ relation: string; name: string; ref_table: string; ref_column: string }>(
    connection,
    KEYS,
    database,
  );
  const views = new Map((await readViews(connection, database)).map((view) => [view.name, view.definition]));
  const details = await readMariaDetails(connection, database);
  const sequences = tables
    .filter((table) => table.type === 'SEQUENCE')
    .map((table) => ({ name: table.name, comment: table.comment || null }));
  const objects = await readMariaObjects(connection, database, sequences);
  const relations = new Map<string, RelationFacts>();
  for (const table of tables) {
    if (table.type === 'SEQUENCE') continue;
    const view = table.type.includes('VIEW');
    const definition = views.get(table.name);
    relations.set(table.name, {
      names: [table.name],
      kind: view ? 'view' : 'table',
      comment: view ? null : table.comment || null,
      rows: view || table.n === null ? null : Number(table.n),
      bytes: view || table.bytes === null ? null : Number(table.bytes),
      native: { ...(definition ? { definition } : {}), details: details.get(table.name) ?? {} },
      columns: [],
    });
  }
  for (const column of columns) {
    const generated = /GENERATED|VIRTUAL|PERSISTENT/i.test(column.extra) && !/DEFAULT_GENERATED/i.test(column.extra);
    relations.get(column.relation)?.columns.push({
      name: column.name,
      position: Number(column.position),
      type: column.type,
      valueType: mariaValueType(column.base),
      nullable: column.nullable === 'YES',
      // MariaDB writes the default NULL as a word.
      default: column.value === 'NULL' ? null : column.value,
      generated,
      primaryKey: column.k === 'PRI',
      unique: column.k === 'UNI',
      references: keys
        .filter((key) => key.relation === column.relation && key.name === column.name)
        .map((key) => `${key.ref_table}.${key.ref_column}`),
      comment: column.comment || null,
      identity: /auto_increment/i.test(column.extra) ? 'by default' : null,
      permitted: permittedBy(column.type),
    });
  }
  await loadParser();
  const list = [...relations.values()].map((relation) => ({
    ...relation,
    columns: withChecks(relation.columns, details.get(relation.names[0] ?? '')?.checks, 'mariadb'),
  }));
  const bytes = list.reduce((sum, relation) => sum + (relation.bytes ?? 0), 0);
  const structure = relationAssets(
    { name: database, native: { version: about?.version }, stats: { bytes } },
    [],
    list,
    known && { known, data: '' },
  );
  return withObjects(structure, database, objects, known);
}

/** Names in backticks become names in quotation marks; texts and comments stay as they are. */
export function standardQuotes(sql: string): string {
  return sql.replace(/'(?:[^'\\]|\\.|'')*'|`((?:[^`]|``)*)`/g, (match, name: string | undefined) =>
    name === undefined ? match : `"${name.replaceAll('``', '`').replaceAll('"', '""')}"`,
  );
}

/** Names of the columns of each table and view, in order. */
export async function readRelations(connection: Connection, database: string): Promise<Map<string, string[]>> {
  const relations = new Map<string, string[]>();
  for (const { relation, name } of await rows<{ relation: string; name: string }>(
    connection,
    'select table_name as relation, column_name as name from information_schema.columns where table_schema = ? order by 1, ordinal_position',
    database,
  )) {
    const known = relations.get(relation);
    if (known) known.push(name);
    else relations.set(relation, [name]);
  }
  return relations;
}

/** The query of each view: the server's own, fully qualified text of it, as far as PostgreSQL's parser accepts it. */
export async function readMariaFlows(connection: Connection, database: string): Promise<FoundFlow[]> {
  const relations = await readRelations(connection, database);
  const views = await readViews(connection, database);
  const own = `"${database.replaceAll('"', '""')}".`;
  return Promise.all(
    views.map((view) =>
      // The server writes `database`.`table`.`column`; within one database the first part says nothing.
      readFlow(
        {
          key: keyOf(database, view.name),
          kind: 'query of a view',
          statement: view.definition,
          query: standardQuotes(view.definition).replaceAll(own, ''),
          name: view.name,
        },
        relations,
        'mariadb',
      ),
    ),
  );
}
