import { hasFewValues, type Origin, type Person, type Policy, type ReadableColumn, type ReadableTable } from '@idrel/core/access';
import { classesOf } from '../catalog/index.ts';
import type { Db } from '../platform/database.ts';

const POLICY = `select id, name, effect, everyone, group_ids as groups, person_ids as people, except_group_ids as "exceptGroups", asset_ids as assets, class_keys as classes, carried, columns, mask, rows from policy where enabled`;

/** The policies in force, as decisions need them. */
export const policiesInForce = (db: Db): Promise<Policy[]> => db.rows<Policy>(`${POLICY} order by name`);

/** People with the groups they are in; all of them, or the ones asked for. */
export const readPeople = (db: Db, ids: readonly string[] | null): Promise<(Person & { name: string })[]> =>
  db.rows(
    "select p.id, p.name, coalesce(array_agg(m.group_id) filter (where m.group_id is not null), '{}') as groups from person p left join group_member m on m.person_id = p.id where $1::uuid[] is null or p.id = any($1) group by p.id order by p.name",
    [ids],
  );

/** What the gateway can be asked for. */
const GATEWAY = "s.kind = 'postgresql' and t.kind in ('table', 'view', 'materialised view', 'foreign table')";

const upFrom = (id: string, parent: string) =>
  `(with recursive up as (select ${id} as id, ${parent} as parent union all select p.id, p.parent_id from asset p join up on p.id = up.parent) select array_agg(id) from up)`;

/** Classes that a column was held by when a policy rested on them, and that nobody let go. */
const heldOf = (column: string) => `coalesce((select json_agg(h.class_key) from class_hold h where h.asset_id = ${column}), '[]')`;
const carriedBy = (column: string) => `coalesce((select json_agg(k.class_key) from (${classesOf(column)}) k), '[]')`;

export interface TableFacts extends ReadableTable {
  readonly path: string;
  readonly sourceId: string;
  readonly domainId: string;
  readonly levels: Readonly<Record<string, number>>;
}

type ColumnRow = Omit<ReadableColumn, 'fewValues' | 'origins'> & { profile: { rows: number; nulls: number; distinct: number } | null };
type TableRow = Omit<TableFacts, 'columns'> & { columns: ColumnRow[] };

/**
 * Tables and views with their columns and classes, by a condition on `t`.
 * Of those that the gateway reads, or of any source. For decisions a class counts as long as people have not dismissed it: what may be personal is treated as such.
 * @param policies those that decisions will be made by: where the values of columns come from is read only when one of them asks
 */
export async function readTables(db: Db, condition: string, bind: readonly unknown[], policies: readonly Policy[], sources: 'gateway' | 'any' = 'gateway'): Promise<TableFacts[]> {
  const tables = await db.rows<TableRow>(
    `select t.id, split_part(t.key, chr(31), 2) as schema, t.name, split_part(t.key, chr(31), 2) || '.' || t.name as path, t.source_id as "sourceId", t.domain_id as "domainId",
       ${upFrom('t.id', 't.parent_id')} as ancestors,
       coalesce((select json_agg(json_build_object('id', c.id, 'name', c.name, 'type', coalesce(c.native ->> 'type', ''), 'classes', ${carriedBy('c.id')}, 'held', ${heldOf('c.id')},
            'profile', (select json_build_object('rows', pf.facts -> 'rows', 'nulls', pf.facts -> 'nulls', 'distinct', pf.facts -> 'distinct') from column_profile pf where pf.asset_id = c.id)) order by c.position)
          from asset c where c.parent_id = t.id and c.kind = 'column' and c.gone_at is null), '[]') as columns,
       coalesce((select json_object_agg(c.id, c.level) from asset c where c.parent_id = t.id and c.level is not null), '{}') as levels
     from asset t join source s on s.id = t.source_id where ${sources === 'any' ? 'true' : GATEWAY} and t.gone_at is null and (${condition}) order by t.key`,
    bind,
  );
  const asked = policies.some((policy) => policy.carried && policy.effect !== 'allow');
  const origins = asked
    ? await originsOf(
        db,
        tables.flatMap((table) => table.columns.map((column) => column.id)),
      )
    : new Map<string, Origin[]>();
  return tables.map((table) => ({
    ...table,
    columns: table.columns.map(({ profile, ...column }) => ({ ...column, fewValues: hasFewValues(profile), origins: origins.get(column.id) ?? [] })),
  }));
}

/**
 * An edge that carries a value on: not one that masks it, nor one that only counts texts or times.
 * `f` and `o` are the assets at its ends.
 */
export const CARRIES = `e.kind <> 'masked' and not (e.kind = 'aggregated' and coalesce(o.native ->> 'type', '') ~ '^(small|big)?int|^numeric|^double|^real' and coalesce(f.native ->> 'type', '') !~ '^(small|big)?int|^numeric|^double|^real')`;

/** For each column the columns whose values it carries on, through any number of steps. */
async function originsOf(db: Db, columns: readonly string[]): Promise<Map<string, Origin[]>> {
  const rows = await db.rows<Origin & { of: string }>(
    `with recursive up(of, id) as (
       select c, c from unnest($1::uuid[]) c
       union select up.of, e.from_id from up join lineage_edge e on e.to_id = up.id join asset f on f.id = e.from_id join asset o on o.id = e.to_id where ${CARRIES}),
     origin as (select distinct id from up where id <> of)
     select up.of, a.id, a.name, ${upFrom('a.id', 'a.parent_id')} as ancestors, (select coalesce(json_agg(distinct k.class_key), '[]') from (${classesOf('a.id')} union select h.class_key from class_hold h where h.asset_id = a.id) k) as classes
     from up join origin on origin.id = up.id join asset a on a.id = up.id where up.of <> up.id`,
    [columns],
  );
  const origins = new Map<string, Origin[]>();
  for (const { of, ...origin } of rows) origins.set(of, [...(origins.get(of) ?? []), origin]);
  return origins;
}
