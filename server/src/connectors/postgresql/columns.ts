import type { ClientBase } from 'pg';

/** Schemas that are not the system's own; `n` is pg_namespace. */
export const OURS = `n.nspname !~ '^pg_' and n.nspname <> 'information_schema'`;

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
  comment: string | null;
}

/** Joins what belongs to a relation that is read. */
const ofRelation = (oid: string) => `join pg_class c on c.oid = ${oid} join pg_namespace n on n.oid = c.relnamespace where c.relkind in ('r', 'p', 'v', 'm', 'f') and not c.relispartition and ${OURS}`;

/**
 * Columns of each relation as a few texts: one row a table is read many times faster than one a column. What few columns have (defaults,
 * comments) and what many share (names of types) is asked for by itself.
 */
export const COLUMNS = `
  select a.attrelid::int as oid, json_agg(a.attname)::text as names, array_agg(a.attnum)::text as numbers, array_agg(a.atttypid::int)::text as types, array_agg(a.atttypmod)::text as mods,
         string_agg(case when a.attnotnull then '1' else '0' end, '') as required, string_agg(case when a.attgenerated = '' then '0' else '1' end, '') as generated
  from (select a.attrelid, a.attname, a.attnum, a.atttypid, a.atttypmod, a.attnotnull, a.attgenerated from pg_attribute a ${ofRelation('a.attrelid')} and a.attnum > 0 and not a.attisdropped order by a.attrelid, a.attnum) a
  group by a.attrelid`;
const DEFAULTS = `select d.adrelid::int as oid, d.adnum::int as number, pg_get_expr(d.adbin, d.adrelid) as text from pg_attrdef d ${ofRelation('d.adrelid')}`;
const COMMENTS = `select o.objoid::int as oid, o.objsubid::int as number, o.description as text from pg_description o ${ofRelation('o.objoid')} and o.classoid = 'pg_class'::regclass and o.objsubid > 0`;
const TYPES = `
  select u.type, u.mod, format_type(u.type::oid, u.mod) as name, t.typcategory as category, t.typname as base
  from unnest($1::int[], $2::int[]) as u(type, mod) join pg_type t on t.oid = u.type::oid`;

/** A row of {@link COLUMNS}. */
export interface PackedColumns {
  oid: number;
  names: string;
  numbers: string;
  types: string;
  mods: string;
  required: string;
  generated: string;
}
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

/** The columns of each relation, by its oid: with the names of their types, their defaults and comments. */
export async function nameColumns(client: ClientBase, unpacked: UnpackedColumns): Promise<Map<number, ColumnRow[]>> {
  const textsOf = async (sql: string) => new Map((await client.query<{ oid: number; number: number; text: string }>(sql)).rows.map((row) => [`${row.oid}:${row.number}`, row.text]));
  const [defaults, comments] = [await textsOf(DEFAULTS), await textsOf(COMMENTS)];
  type TypeRow = { type: number; mod: number; name: string; category: string; base: string };
  const named = await client.query<TypeRow>(TYPES, [unpacked.types.map(([type]) => type), unpacked.types.map(([, mod]) => mod)]);
  const types = new Map(named.rows.map((row) => [`${row.type}:${row.mod}`, row]));
  return new Map(
    unpacked.relations.map(({ row, names, numbers, types: ids, mods }) => [
      row.oid,
      names.map((name, index): ColumnRow => {
        const type = types.get(`${ids[index]}:${mods[index]}`);
        const place = `${row.oid}:${numbers[index]}`;
        return {
          name,
          position: numbers[index] ?? 0,
          type: type?.name ?? '',
          category: type?.category ?? '',
          base: type?.base ?? '',
          required: row.required[index] === '1',
          default: defaults.get(place) ?? null,
          generated: row.generated[index] === '1',
          comment: comments.get(place) ?? null,
        };
      }),
    ]),
  );
}
