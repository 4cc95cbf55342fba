import type { ValueType } from '@idrel/core/recognition';
import type { Part, TableDetails } from '@idrel/core/scanning';
import { checksOfSqliteTable, queryOfSqliteView } from '@idrel/core/sql';
import type { Database } from 'node-sqlite3-wasm';
import { type Marking, type RelationFacts, relationAssets, withChecks } from '../relations.ts';
import { type FoundFlow, keyOf, type Structure } from '../types.ts';
import { readFlow } from '../viewFlows.ts';

interface ColumnRow extends Record<string, unknown> {
  relation: string;
  kind: 'table' | 'view';
  name: string;
  cid: number;
  type: string;
  notnull: number;
  dflt_value: string | null;
  pk: number;
  hidden: number;
}

const COLUMNS = `
  select m.name as relation, m.type as kind, p.name, p.cid, p.type, p."notnull", p.dflt_value, p.pk, p.hidden
  from sqlite_schema m, pragma_table_xinfo(m.name) p
  where m.type in ('table', 'view') and m.name not like 'sqlite\\_%' escape '\\' and p.hidden <> 1 order by m.name, p.cid`;
const KEYS = `
  select m.name as relation, f."from" as name, f."table" as ref_table, f."to" as ref_column
  from sqlite_schema m, pragma_foreign_key_list(m.name) f where m.type = 'table'`;
const INDEXES = `
  select
    m.name as relation, i.name, i."unique", i.origin, i.partial, s.sql,
    (
      select json_group_array(coalesce(x.name, '(expression)'))
      from (select name from pragma_index_info(i.name) order by seqno) x
    ) as columns
  from sqlite_schema m, pragma_index_list(m.name) i
  left join sqlite_schema s on s.type = 'index' and s.name = i.name
  where m.type = 'table'
  order by m.name, i.name`;
const STATEMENTS = `
    select type, tbl_name as relation, name, sql
    from sqlite_schema
    where type in ('table', 'trigger') and sql is not null
    order by name`;
const VIEWS = "select name, sql from sqlite_schema where type = 'view' order by name";

/** What detectors make of a declared type, by SQLite's rules of affinity (https://www.sqlite.org/datatype3.html, 3.1). */
export function sqliteValueType(declared: string): ValueType {
  const type = declared.toUpperCase();
  if (type === 'DATE') return 'date';
  if (type.includes('INT')) return 'integer';
  if (/CHAR|CLOB|TEXT/.test(type) || type === '') return 'text';
  if (type.includes('BLOB')) return 'other';
  if (/REAL|FLOA|DOUB|NUMERIC|DECIMAL/.test(type)) return 'decimal';
  return 'text';
}

interface IndexRow {
  relation: string;
  name: string;
  unique: number;
  origin: 'c' | 'u' | 'pk';
  partial: number;
  sql: string | null;
  columns: string;
}

/** What tables have beside their columns, and which columns are unique by themselves. */
function readDetails(database: Database): { of: Map<string, TableDetails>; unique: Set<string> } {
  const lists = new Map<string, { uniques: Part[]; indexes: Part[]; checks: Part[]; triggers: Part[] }>();
  const of = (relation: string) => {
    const known = lists.get(relation) ?? { uniques: [], indexes: [], checks: [], triggers: [] };
    lists.set(relation, known);
    return known;
  };
  const unique = new Set<string>();
  for (const row of database.all(INDEXES) as unknown as IndexRow[]) {
    const columns = JSON.parse(row.columns) as string[];
    const definition = row.sql ?? `${row.origin === 'pk' ? 'PRIMARY KEY' : 'UNIQUE'} (${columns.join(', ')})`;
    const found: Part = { name: row.name, definition, columns, ...(row.unique ? { unique: true as const } : {}) };
    (row.origin === 'u' ? of(row.relation).uniques : of(row.relation).indexes).push(found);
    if (row.unique && row.origin !== 'pk' && !row.partial && columns.length === 1)
      unique.add(`${row.relation}\0${columns[0]}`);
  }
  for (const { type, relation, name, sql } of database.all(STATEMENTS) as unknown as {
    type: string;
    relation: string;
    name: string;
    sql: string;
  }[]) {
    if (type === 'trigger') of(relation).triggers.push({ name, definition: sql });
    else
      for (const [index, check] of checksOfSqliteTable(sql).entries())
        of(name).checks.push({
          name: check.name ?? `check ${index + 1}`,
          definition: check.condition,
          ...(check.column === null ? {} : { columns: [check.column] }),
        });
  }
  return {
    unique,
    of: new Map(
      [...lists].map(([relation, kinds]) => [
        relation,
        Object.fromEntries(Object.entries(kinds).filter(([, parts]) => parts.length > 0)),
      ]),
    ),
  };
}

/** Reads what the file says about its tables and views. Needs the parser of SQL to be loaded. */
export function readSqliteStructure(
  database: Database,
  top: string,
  progress: (objects: number, columns: number) => void,
  marking?: Marking,
): Structure {
  const version = (database.get('select sqlite_version() as version') as { version: string }).version;
  const bytes = (
    database.get('select page_count * page_size as bytes from pragma_page_count(), pragma_page_size()') as {
      bytes: number;
    }
  ).bytes;
  const columns = database.all(COLUMNS) as unknown as ColumnRow[];
  const keys = database.all(KEYS) as unknown as {
    relation: string;
    name: string;
    ref_table: string;
    ref_column: string | null;
  }[];
  const views = new Map(
    (database.all(VIEWS) as unknown as { name: string; sql: string }[]).map((view) => [view.name, view.sql]),
  );
  const details = readDetails(database);
  const relations = new Map<string, RelationFacts>();
  for (const row of columns) {
    const relation = relations.get(row.relation) ?? {
      names: [row.relation],
      kind: row.kind,
      comment: null,
      rows: row.kind === 'table' ? estimate(database, row.relation) : null,
      bytes: null,
      native: {
        ...(views.has(row.relation) ? { definition: views.get(row.relation) } : {}),
        details: details.of.get(row.relation) ?? {},
      },
      columns: [],
    };
    relations.set(row.relation, relation);
    const references = keys
      .filter((key) => key.relation === row.relation && key.name === row.name)
      .map((key) => `${key.ref_table}${key.ref_column ? `.${key.ref_column}` : ''}`);
    relation.columns.push({
      name: row.name,
      position: row.cid + 1,
      type: row.type.toLowerCase() || 'any',
      valueType: sqliteValueType(row.type),
      nullable: row.notnull === 0 && row.pk === 0,
      default: row.hidden === 0 ? row.dflt_value : null,
      generated: row.hidden > 1,
      primaryKey: row.pk > 0,
      unique: details.unique.has(`${row.relation}\0${row.name}`),
      references,
      comment: null,
    });
  }
  progress(relations.size, columns.length);
  const list = [...relations.values()].map((relation) => ({
    ...relation,
    columns: withChecks(relation.columns, details.of.get(relation.names[0] ?? '')?.checks, 'sqlite'),
  }));
  return relationAssets({ name: top, native: { version: `SQLite ${version}` }, stats: { bytes } }, [], list, marking);
}

/** The largest row number: exact when nothing was deleted. A table without row numbers says nothing. */
function estimate(database: Database, table: string): number | null {
  try {
    return (
      (database.get(`select max(rowid) as n from "${table.replaceAll('"', '""')}"`) as { n: number | null }).n ?? 0
    );
  } catch {
    return null;
  }
}

/** The query of each view, as far as PostgreSQL's parser accepts it once it is written in the standard's way. */
export async function readSqliteFlows(database: Database, top: string): Promise<FoundFlow[]> {
  const columns = database.all(COLUMNS) as unknown as ColumnRow[];
  const relations = new Map<string, string[]>();
  for (const row of columns) relations.set(row.relation, [...(relations.get(row.relation) ?? []), row.name]);
  const views = database.all(VIEWS) as unknown as { name: string; sql: string }[];
  return Promise.all(
    views.map((view) =>
      readFlow(
        {
          key: keyOf(top, view.name),
          kind: 'query of a view',
          statement: view.sql,
          query: queryOfSqliteView(view.sql),
          name: view.name,
        },
        relations,
        'sqlite',
      ),
    ),
  );
}
