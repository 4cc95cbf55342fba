import type { OutlineItem } from '@idrel/contract/scanning';
import type { ValueType } from '@idrel/core/recognition';
import type { TableDetails } from '@idrel/core/scanning';
import type { AssetKind } from '@idrel/core/things';
import type { ClientBase } from 'pg';
import { type RelationFacts, relationAssets, withChecks, withObjects } from '../relations.ts';
import { digest, isUnchanged, type Known, keyOf, type Mark, OUTLINE_MOST, type Structure } from '../types.ts';
import {
  COLUMN_MARKS,
  type ColumnRow,
  type ColumnTexts,
  columnsOf,
  groupBy,
  NOT_OF_EXTENSION,
  nameColumns,
  OURS,
  type PackedColumns,
  readColumnTexts,
  readTypesMark,
  unpackColumns,
} from './columns.ts';
import { readDefinitionNames, readDefinitions } from './definitions.ts';
import { type Besides, type ReadIndexes, readBesides, readIndexes, readIndexMarks } from './details.ts';

/** Whoever can connect at all: PostgreSQL's own word for it is “public”. */
const EVERYBODY = 'everybody';

/** What a table takes with its long values, without indexes: two looks at the disk a table, one for an empty one; all of its forks and indexes would be ten. */
const SIZE =
  'main.size + case when main.size > 0 and c.reltoastrelid <> 0 then pg_relation_size(c.reltoastrelid) else 0 end';
const MAIN = "lateral (select case when c.relkind in ('r', 'm') then pg_relation_size(c.oid) end as size) main";

/** Rights as they stand in an access list, by who has them: SQL of JSON, null when nobody but the owner has any. */
const rightsOf = (list: string, owner: string) => `
  (
    select json_object_agg(g.grantee, g.rights order by g.grantee)
    from (
      select
        coalesce(r.rolname, '${EVERYBODY}') as grantee,
        string_agg(
          distinct x.privilege_type || case when x.is_grantable then ' and pass it on' else '' end, ', '
          order by x.privilege_type || case when x.is_grantable then ' and pass it on' else '' end
        ) as rights
      from aclexplode(${list}) x
      left join pg_roles r on r.oid = x.grantee
      where x.grantee <> ${owner}
      group by 1
    ) g
  )`;

/** Rights on single columns: who, what, which columns. */
const COLUMN_RIGHTS = `
  select
    a.attrelid::int as oid, coalesce(r.rolname, '${EVERYBODY}') as grantee, x.privilege_type as privilege,
    array_agg(a.attname::text order by a.attnum) as columns
  from pg_attribute a
  cross join lateral aclexplode(a.attacl) x
  left join pg_roles r on r.oid = x.grantee
  where a.attacl is not null and a.attnum > 0 and not a.attisdropped
  group by 1, 2, 3
  order by 1, 2, 3`;

const RELATIONS = `
  select
    c.oid::int as oid, pg_get_userbyid(c.relowner) as owner,
    case when c.relacl is not null then ${rightsOf('c.relacl', 'c.relowner')} end as rights, n.nspname as schema,
    c.relname as name, c.relkind as kind, d.description as comment, nullif(greatest(c.reltuples, -1), -1)::float8 as rows,
    (${SIZE})::float8 as bytes, case when c.relkind in ('v', 'm') then pg_get_viewdef(c.oid) end as definition,
    case when c.relkind = 'p' then pg_get_partkeydef(c.oid) end as partitioned_by, fs.srvname as server
  from pg_class c
  join pg_namespace n on n.oid = c.relnamespace
  cross join ${MAIN}
  left join pg_foreign_table ft on ft.ftrelid = c.oid
  left join pg_foreign_server fs on fs.oid = ft.ftserver
  left join pg_description d on d.objoid = c.oid and d.classoid = 'pg_class'::regclass and d.objsubid = 0
  where c.relkind in ('r', 'p', 'v', 'm', 'f') and not c.relispartition and ${OURS} and ${NOT_OF_EXTENSION}
  order by n.nspname, c.relname`;

/** Partitions stand inside the table they are parts of, however deep. */
const PARTS = `
  select
    t.root::oid::int as root, c.relname as name, n.nspname as schema, pg_get_expr(c.relpartbound, c.oid) as bound,
    greatest(c.reltuples, 0)::float8 as rows, coalesce(${SIZE}, 0)::float8 as bytes, c.relkind = 'r' as leaf
  from pg_class c
  join pg_namespace n on n.oid = c.relnamespace
  cross join ${MAIN}, lateral (select pg_partition_root(c.oid) as root) t
  where c.relispartition and ${OURS}
  order by n.nspname, c.relname`;

const KEYS = `
  select
    k.conrelid::int as oid, k.contype as type, k.conkey::int[] as columns, rn.nspname as ref_schema,
    rc.relname as ref_table,
    (
      select array_agg(ra.attname::text order by o.i)
      from unnest(k.confkey) with ordinality o(num, i)
      join pg_attribute ra on ra.attrelid = k.confrelid and ra.attnum = o.num
    ) as ref_columns
  from pg_constraint k
  join pg_class c on c.oid = k.conrelid
  join pg_namespace n on n.oid = c.relnamespace
  left join pg_class rc on rc.oid = k.confrelid
  left join pg_namespace rn on rn.oid = rc.relnamespace
  where k.contype in ('p', 'f', 'u') and not c.relispartition and ${OURS}`;

const KINDS: Readonly<Record<string, AssetKind>> = {
  r: 'table',
  p: 'table',
  v: 'view',
  m: 'materialised view',
  f: 'foreign table',
};

interface RelationRow {
  oid: number;
  schema: string;
  name: string;
  kind: string;
  comment: string | null;
  rows: number | null;
  bytes: number | null;
  definition: string | null;
  partitioned_by: string | null;
  server: string | null;
  owner: string;
  rights: Record<string, string> | null;
}
interface ColumnRightRow {
  oid: number;
  grantee: string;
  privilege: string;
  columns: string[];
}
interface PartRow {
  root: number;
  name: string;
  schema: string;
  bound: string | null;
  rows: number;
  bytes: number;
  leaf: boolean;
}
interface KeyRow {
  oid: number;
  type: string;
  columns: number[];
  ref_schema: string | null;
  ref_table: string | null;
  ref_columns: string[] | null;
}

const INTEGERS = new Set(['int2', 'int4', 'int8', 'oid']);

/** What detectors make of a PostgreSQL type. */
export function valueType(category: string, base: string): ValueType {
  if (base === 'bytea') return 'other';
  if (category === 'S' || category === 'E' || base === 'citext') return 'text';
  if (category === 'N') return INTEGERS.has(base) ? 'integer' : 'decimal';
  if (base === 'date') return 'date';
  return 'other';
}

/** Schemas, tables and views by name, and what else people made in them. */
export async function readOutline(client: ClientBase): Promise<OutlineItem[]> {
  const { rows } = await client.query<{ schema: string; name: string | null; kind: string | null }>(
    `
      select n.nspname as schema, c.relname as name, c.relkind as kind
      from pg_catalog.pg_namespace n
      left join pg_catalog.pg_class c on c.relnamespace = n.oid
        and c.relkind in ('r', 'p', 'v', 'm', 'f')
        and not c.relispartition
        and ${NOT_OF_EXTENSION}
      where ${OURS}
      order by 1, 2
      limit ${OUTLINE_MOST}`,
  );
  const besides = groupBy(await readDefinitionNames(client, OUTLINE_MOST), (row) => row.schema);
  const items: OutlineItem[] = [];
  for (const [schema, relations] of groupBy(rows, (row) => row.schema)) {
    items.push({ path: schema, kind: 'schema' });
    for (const row of relations)
      if (row.name !== null) items.push({ path: `${schema}.${row.name}`, kind: KINDS[row.kind ?? ''] ?? 'table' });
    for (const row of besides.get(schema) ?? []) items.push({ path: `${schema}.${row.name}`, kind: row.kind });
  }
  return items.slice(0, OUTLINE_MOST);
}

/** What changes with each write to a table: the transactions' own counters, and the file that a rewrite makes anew. Views hold nothing of their own. */
const DATA_MARKS = `
  select
    c.oid::int as oid,
    concat_ws(
      ' ', c.relfilenode, pg_stat_get_tuples_inserted(c.oid), pg_stat_get_tuples_updated(c.oid),
      pg_stat_get_tuples_deleted(c.oid)
    ) as mark
  from pg_class c
  join pg_namespace n on n.oid = c.relnamespace
  where c.relkind in ('r', 'm') and not c.relispartition and ${OURS}`;

/**
 * Reads everything that pg_catalog says about the objects of one database. One statement a fact, none per table. With marks of an earlier
 * reading, columns are read only of relations of which something differs.
 */
export async function readStructure(
  client: ClientBase,
  database: string,
  progress: (objects: number, columns: number) => void,
  known?: Known,
): Promise<Structure> {
  await client.query("set search_path = ''");
  // Compiling a statement over the catalog takes longer than it saves.
  await client.query('set search_path = pg_catalog; set jit = off');
  const about = (await client.query<{ version: string }>("select current_setting('server_version') as version"))
    .rows[0];
  const schemas = await client.query<{
    name: string;
    comment: string | null;
    owner: string;
    rights: Record<string, string> | null;
  }>(
    `
      select
        n.nspname as name, obj_description(n.oid, 'pg_namespace') as comment, pg_get_userbyid(n.nspowner) as owner,
        case when n.nspacl is not null then ${rightsOf('n.nspacl', 'n.nspowner')} end as rights
      from pg_namespace n
      where ${OURS}
      order by 1`,
  );
  const columnRights = groupBy((await client.query<ColumnRightRow>(COLUMN_RIGHTS)).rows, (row) => row.oid);
  const relations = (await client.query<RelationRow>(RELATIONS)).rows.map((relation) => ({
    ...relation,
    rights: withColumns(relation.rights, columnRights.get(relation.oid) ?? []),
  }));
  progress(relations.length, 0);
  const all =
    known && known.marks.size > 0
      ? undefined
      : (await client.query<PackedColumns>(columnsOf(known ? 'all, marked' : 'all'))).rows;
  const texts = await readColumnTexts(client);
  const parts = groupBy((await client.query<PartRow>(PARTS)).rows, (row) => row.root);
  // While the source answers the next question, the columns are unpacked.
  const asked = client.query<KeyRow>(KEYS);
  const unpackedAll = all && unpackColumns(all);
  const keys = groupBy((await asked).rows, (row) => row.oid);
  const besides = await readBesides(client);
  const indexMarks = known && (await readIndexMarks(client));
  const definitions = await readDefinitions(client);

  const unchanged = new Set<string>();
  const marks =
    known &&
    (await marksOf(client, database, relations, {
      keys,
      parts,
      texts,
      besides,
      indexMarks: indexMarks ?? new Map(),
      columns: all,
    }));
  const differing = relations.filter((relation) => {
    const key = keyOf(database, relation.schema, relation.name);
    const mark = marks?.get(key);
    if (mark && isUnchanged(known, key, mark)) unchanged.add(key);
    return !unchanged.has(key);
  });
  const unpacked =
    unpackedAll ??
    unpackColumns(
      differing.length > 0
        ? (await client.query<PackedColumns>(columnsOf('some'), [differing.map((relation) => relation.oid)])).rows
        : [],
    );
  progress(relations.length, unpacked.count);
  const indexes = await readIndexes(client, all ? undefined : differing.map((relation) => relation.oid));
  const columns = await nameColumns(client, unpacked, texts);
  const found = differing.map((relation) =>
    toRelation(
      relation,
      columns.get(relation.oid) ?? [],
      keys.get(relation.oid) ?? [],
      parts.get(relation.oid) ?? [],
      detailsOf(relation.oid, besides, indexes),
      indexes.unique.get(relation.oid),
    ),
  );
  const bytes =
    relations.reduce((sum, relation) => sum + (relation.bytes ?? 0), 0) +
    [...parts.values()].flat().reduce((sum, part) => sum + part.bytes, 0);
  const structure = relationAssets(
    { name: database, native: { version: about?.version }, stats: { bytes } },
    schemas.rows.map(({ name, comment, owner, rights }) => ({
      name,
      comment,
      native: { owner, ...(rights ? { rights } : {}) },
    })),
    found,
  );
  return withObjects({ ...structure, ...(marks ? { marks, unchanged } : {}) }, database, definitions, known);
}

/** Rights on a whole table and on some of its columns, by who has them. */
function withColumns(
  whole: Record<string, string> | null,
  columns: readonly ColumnRightRow[],
): Record<string, string> | null {
  if (columns.length === 0) return whole;
  const rights = { ...whole };
  for (const { grantee, privilege, columns: names } of columns)
    rights[grantee] = [rights[grantee], `${privilege} (${names.join(', ')})`].filter(Boolean).join(', ');
  return rights;
}

interface ReadFacts {
  readonly keys: ReadonlyMap<number, readonly KeyRow[]>;
  readonly parts: ReadonlyMap<number, readonly PartRow[]>;
  readonly texts: ColumnTexts;
  readonly besides: Besides;
  readonly indexMarks: ReadonlyMap<number, string>;
  /** Columns, when all of them were read. */
  readonly columns: readonly PackedColumns[] | undefined;
}

/** Marks of relations: all that was read of them but their columns, and for these the marks of their rows. */
async function marksOf(
  client: ClientBase,
  database: string,
  relations: readonly RelationRow[],
  { keys, parts, texts, besides, indexMarks, columns }: ReadFacts,
): Promise<Map<string, Mark>> {
  const ask = async (sql: string) => (await client.query<{ oid: number; mark: string }>(sql)).rows;
  const rowMarks = new Map((columns ?? (await ask(COLUMN_MARKS))).map((row) => [row.oid, row.mark]));
  const dataMarks = new Map((await ask(DATA_MARKS)).map((row) => [row.oid, row.mark]));
  const typesMark = await readTypesMark(client);
  return new Map(
    relations.map(({ oid, ...relation }) => {
      const facts = [
        relation,
        keys.get(oid),
        parts.get(oid),
        texts.defaults.get(oid),
        texts.comments.get(oid),
        besides.get(oid),
        indexMarks.get(oid),
        rowMarks.get(oid),
        typesMark,
      ];
      return [
        keyOf(database, relation.schema, relation.name),
        { structure: digest(facts), data: dataMarks.get(oid) ?? '' },
      ];
    }),
  );
}

/** All that a table has beside its columns; the kinds in the order in which they are shown. */
function detailsOf(oid: number, besides: Besides, indexes: ReadIndexes): TableDetails {
  const own = indexes.of.get(oid);
  return { ...besides.get(oid), ...(own ? { indexes: own } : {}) };
}

function toRelation(
  relation: RelationRow,
  columns: ColumnRow[],
  keys: KeyRow[],
  parts: PartRow[],
  details: TableDetails,
  indexed: ReadonlySet<number> | undefined,
): RelationFacts {
  const primary = new Set(keys.filter((entry) => entry.type === 'p').flatMap((entry) => entry.columns));
  const unique = new Set(
    keys.filter((entry) => entry.type === 'u' && entry.columns.length === 1).flatMap((entry) => entry.columns),
  );
  const foreign = keys.filter((entry) => entry.type === 'f');
  const leaves = parts.filter((part) => part.leaf);
  return {
    names: [relation.schema, relation.name],
    kind: KINDS[relation.kind] ?? 'table',
    comment: relation.comment,
    rows:
      relation.kind === 'v'
        ? null
        : leaves.length > 0
          ? leaves.reduce((sum, part) => sum + part.rows, 0)
          : relation.rows,
    bytes: leaves.length > 0 ? leaves.reduce((sum, part) => sum + part.bytes, 0) : relation.bytes,
    native: {
      owner: relation.owner,
      ...(relation.rights ? { rights: relation.rights } : {}),
      ...(relation.definition ? { definition: relation.definition } : {}),
      ...(relation.server ? { server: relation.server } : {}),
      ...(relation.partitioned_by
        ? {
            partitionedBy: relation.partitioned_by,
            parts: parts.map((part) => ({ name: part.name, bound: part.bound })),
          }
        : {}),
      details,
    },
    columns: withChecks(
      columns.map((column) => ({
        name: column.name,
        position: column.position,
        type: column.type,
        valueType: valueType(column.category, column.base),
        nullable: !column.required,
        default: column.default,
        generated: column.generated,
        primaryKey: primary.has(column.position),
        unique: unique.has(column.position) || (indexed?.has(column.position) ?? false),
        identity: column.identity,
        ofType: column.ofType,
        permitted: column.permitted,
        references: foreign
          .filter((entry) => entry.columns.includes(column.position))
          .map(
            (entry) =>
              `${entry.ref_schema}.${entry.ref_table}.${entry.ref_columns?.[entry.columns.indexOf(column.position)] ?? ''}`,
          ),
        comment: column.comment,
      })),
      details.checks,
      'postgresql',
    ),
  };
}
