import { MADE_BY } from '@idrel/core/access';
import { loadParser, permittedByCheck } from '@idrel/core/sql';
import type { ClientBase } from 'pg';

/** What an extension brought along belongs to it, not to the people whose source this is. Of `pg_class c`. */
export const NOT_OF_EXTENSION =
  "not exists (select 1 from pg_catalog.pg_depend x where x.classid = 'pg_catalog.pg_class'::pg_catalog.regclass and x.objid = c.oid and x.deptype = 'e')";

/** Schemas that are neither the system's own nor what Idrel made there from its policies; `n` is pg_namespace. */
export const OURS = `n.nspname !~ '^pg_' and n.nspname <> 'information_schema' and not (n.nspname ~ '^idrel_' and pg_catalog.obj_description(n.oid, 'pg_namespace') is not distinct from '${MADE_BY}')`;

/** A column as pg_catalog describes it. */
export interface ColumnRow {
  name: string;
  position: number;
  type: string;
  category: string;
  base: string;
  required: boolean;
  default: string | null;
  generated: boolean;
  identity: 'always' | 'by default' | null;
  /** The type that somebody made and this column has, or has an array of: `schema.name`. */
  ofType: string | null;
  /** What an enumeration, or a check of a domain, permits. */
  permitted: readonly string[] | null;
  comment: string | null;
}

/** Joins what belongs to a relation that is read. */
const ofRelation = (oid: string) =>
  `
    join pg_class c on c.oid = ${oid}
    join pg_namespace n on n.oid = c.relnamespace
    where c.relkind in ('r', 'p', 'v', 'm', 'f') and not c.relispartition and ${OURS}`;

const ROW_MARK = 'hashtextextended(a.xmin::text, a.attnum)';

/**
 * Columns of each relation as a few texts: one row a table is read many times faster than one a column. What few columns have (defaults,
 * comments) and what many share (names of types) is asked for by itself.
 * @param which `some`: of the relations in $1
 */
export const columnsOf = (which: 'all' | 'all, marked' | 'some'): string => `
  select
    a.attrelid::int as oid, sum(a.mark)::text as mark, json_agg(a.attname)::text as names,
    array_agg(a.attnum)::text as numbers, array_agg(a.atttypid::int)::text as types, array_agg(a.atttypmod)::text as mods,
    string_agg(case when a.attnotnull then '1' else '0' end, '') as required,
    string_agg(case when a.attgenerated = '' then '0' else '1' end, '') as generated,
    string_agg(coalesce(nullif(a.attidentity, ''), '-'), '') as identity
  from (
    select
      a.attrelid, a.attname, a.attnum, a.atttypid, a.atttypmod, a.attnotnull, a.attgenerated, a.attidentity::text,
      ${which === 'all, marked' ? ROW_MARK : '0'} as mark
    from pg_attribute a ${ofRelation('a.attrelid')}
      and a.attnum > 0
      and not a.attisdropped ${which === 'some' ? 'and a.attrelid = any($1::oid[])' : ''}
    order by a.attrelid, a.attnum
  ) a
  group by a.attrelid`;
/** Changes with each change of one of a relation's columns: the transactions that wrote them, and where they stand. */
export const COLUMN_MARKS = `
  select a.attrelid::int as oid, sum(${ROW_MARK})::text as mark
  from pg_attribute a ${ofRelation('a.attrelid')} and a.attnum > 0 and not a.attisdropped
  group by a.attrelid`;
/** Names of types that somebody made come from their own rows; those of tables and of arrays follow what they are of. */
const TYPES_MARK = `
  select md5(
    concat(
      string_agg(concat_ws(' ', t.oid, t.xmin, n.nspname), ',' order by t.oid),
      (select string_agg(concat_ws(' ', k.oid, k.xmin), ',' order by k.oid) from pg_constraint k where k.contypid <> 0)
    )
  ) as mark
  from pg_type t
  join pg_namespace n on n.oid = t.typnamespace
  where n.nspname <> 'pg_catalog' and t.typtype <> 'c' and t.typcategory <> 'A' and n.nspname <> 'information_schema'`;
const DEFAULTS = `
  select d.adrelid::int as oid, d.adnum::int as number, pg_get_expr(d.adbin, d.adrelid) as text
  from pg_attrdef d ${ofRelation('d.adrelid')}`;
const COMMENTS = `
  select o.objoid::int as oid, o.objsubid::int as number, o.description as text
  from pg_description o ${ofRelation('o.objoid')} and o.classoid = 'pg_class'::regclass and o.objsubid > 0`;
const TYPES = `
  select
    u.type, u.mod, format_type(u.type::oid, u.mod) as name, t.typcategory as category, t.typname as base,
    case
      when ${OURS}
        and (
          m.typtype in ('e', 'd', 'r') or exists (select 1 from pg_class c where c.oid = m.typrelid and c.relkind = 'c')
        ) then n.nspname || '.' || m.typname
    end as "ofType",
    (
      select json_agg(e.enumlabel order by e.enumsortorder)
      from pg_enum e
      where e.enumtypid = case t.typtype when 'd' then t.typbasetype else t.oid end
    ) as permitted,
    (
      select json_agg(pg_get_constraintdef(k.oid))
      from pg_constraint k
      where k.contypid = t.oid and k.contype = 'c'
    ) as checks
  from unnest($1::int[], $2::int[]) as u(type, mod)
  join pg_type t on t.oid = u.type::oid
  join pg_type m on m.oid = case when t.typcategory = 'A' and t.typelem <> 0 then t.typelem else t.oid end
  join pg_namespace n on n.oid = m.typnamespace`;

/** A row of {@link columnsOf}. */
export interface PackedColumns {
  oid: number;
  mark: string;
  names: string;
  numbers: string;
  types: string;
  mods: string;
  required: string;
  generated: string;
  identity: string;
}
const IDENTITIES: Record<string, 'always' | 'by default'> = { a: 'always', d: 'by default' };
const integers = (array: string): number[] => JSON.parse(`[${array.slice(1, -1)}]`) as number[];

interface UnpackedRelation {
  readonly row: PackedColumns;
  readonly names: string[];
  readonly numbers: number[];
  readonly types: number[];
  readonly mods: number[];
}
/** Columns whose types have no names yet. */
export interface UnpackedColumns {
  readonly relations: readonly UnpackedRelation[];
  /** Each pair of type and modifier once. */
  readonly types: readonly (readonly [type: number, mod: number])[];
  readonly count: number;
}

export function unpackColumns(packed: readonly PackedColumns[]): UnpackedColumns {
  const pairs = new Map<string, readonly [number, number]>();
  let count = 0;
  const relations = packed.map((row) => {
    const [types, mods] = [integers(row.types), integers(row.mods)];
    types.forEach((type, index) => {
      const mod = mods[index] ?? -1;
      pairs.set(`${type}:${mod}`, [type, mod]);
    });
    count += types.length;
    return { row, names: JSON.parse(row.names) as string[], numbers: integers(row.numbers), types, mods };
  });
  return { relations, types: [...pairs.values()], count };
}

/** What few columns have: defaults and comments, by relation and by number. */
export interface ColumnTexts {
  readonly defaults: ReadonlyMap<number, readonly ColumnText[]>;
  readonly comments: ReadonlyMap<number, readonly ColumnText[]>;
}
interface ColumnText {
  readonly oid: number;
  readonly number: number;
  readonly text: string;
}

export async function readColumnTexts(client: ClientBase): Promise<ColumnTexts> {
  const textsOf = async (sql: string) =>
    groupBy((await client.query<ColumnText>(`${sql} order by 1, 2`)).rows, (row) => row.oid);
  return { defaults: await textsOf(DEFAULTS), comments: await textsOf(COMMENTS) };
}

export const readTypesMark = async (client: ClientBase): Promise<string> =>
  (await client.query<{ mark: string | null }>(TYPES_MARK)).rows[0]?.mark ?? '';

/** The columns of each relation, by its oid: with the names of their types, their defaults and comments. */
export async function nameColumns(
  client: ClientBase,
  unpacked: UnpackedColumns,
  texts: ColumnTexts,
): Promise<Map<number, ColumnRow[]>> {
  type TypeRow = {
    type: number;
    mod: number;
    name: string;
    category: string;
    base: string;
    ofType: string | null;
    permitted: string[] | null;
    checks: string[] | null;
  };
  const named = await client.query<TypeRow>(TYPES, [
    unpacked.types.map(([type]) => type),
    unpacked.types.map(([, mod]) => mod),
  ]);
  await loadParser();
  // What the checks of a domain list is permitted as what an enumeration lists.
  const listedBy = (checks: string[] | null) =>
    checks?.flatMap((check) => permittedByCheck(check, 'postgresql')).find((list) => list.column === 'value')?.values;
  const types = new Map(
    named.rows.map((row) => [
      `${row.type}:${row.mod}`,
      { ...row, permitted: row.permitted ?? listedBy(row.checks) ?? null },
    ]),
  );
  return new Map(
    unpacked.relations.map(({ row, names, numbers, types: ids, mods }) => [
      row.oid,
      names.map((name, index): ColumnRow => {
        const type = types.get(`${ids[index]}:${mods[index]}`);
        const textOf = (of: ReadonlyMap<number, readonly ColumnText[]>) =>
          of.get(row.oid)?.find((entry) => entry.number === numbers[index])?.text ?? null;
        return {
          name,
          position: numbers[index] ?? 0,
          type: type?.name ?? '',
          category: type?.category ?? '',
          base: type?.base ?? '',
          required: row.required[index] === '1',
          default: textOf(texts.defaults),
          generated: row.generated[index] === '1',
          identity: IDENTITIES[row.identity[index] ?? ''] ?? null,
          ofType: type?.ofType ?? null,
          permitted: type?.permitted ?? null,
          comment: textOf(texts.comments),
        };
      }),
    ]),
  );
}

export function groupBy<T, K extends number | string>(rows: readonly T[], key: (row: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>();
  for (const row of rows) {
    const group = groups.get(key(row));
    if (group) group.push(row);
    else groups.set(key(row), [row]);
  }
  return groups;
}
