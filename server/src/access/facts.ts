import type { Person, Policy, ReadableTable } from '@idrel/core/access';
import { classesOf } from '../catalog/index.ts';
import type { Db } from '../platform/database.ts';

const POLICY = `select id, name, effect, everyone, group_ids as groups, person_ids as people, except_group_ids as "exceptGroups", asset_ids as assets, class_keys as classes, columns, mask, rows from policy where enabled`;

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

export interface TableFacts extends ReadableTable {
  readonly path: string;
  readonly sourceId: string;
  readonly domainId: string;
  readonly levels: Readonly<Record<string, number>>;
}

/**
 * Tables and views with their columns and classes, by a condition on `t`.
 * Of those that the gateway reads, or of any source. For decisions a class counts as long as people have not dismissed it: what may be personal is treated as such.
 */
export async function readTables(db: Db, condition: string, bind: readonly unknown[], sources: 'gateway' | 'any' = 'gateway'): Promise<TableFacts[]> {
  return db.rows<TableFacts>(
    `select t.id, split_part(t.key, chr(31), 2) as schema, t.name, split_part(t.key, chr(31), 2) || '.' || t.name as path, t.source_id as "sourceId", t.domain_id as "domainId",
       (with recursive up as (select t.id as id, t.parent_id as parent union all select p.id, p.parent_id from asset p join up on p.id = up.parent) select array_agg(id) from up) as ancestors,
       coalesce((select json_agg(json_build_object('id', c.id, 'name', c.name, 'type', c.native ->> 'type', 'classes', coalesce((select json_agg(k.class_key) from (${classesOf('c.id')}) k), '[]')) order by c.position)
          from asset c where c.parent_id = t.id and c.kind = 'column' and c.gone_at is null), '[]') as columns,
       coalesce((select json_object_agg(c.id, c.level) from asset c where c.parent_id = t.id and c.level is not null), '{}') as levels
     from asset t join source s on s.id = t.source_id where ${sources === 'any' ? 'true' : GATEWAY} and t.gone_at is null and (${condition}) order by t.key`,
    bind,
  );
}
