import type { FieldOrigins } from '@idrel/contract/lineage';
import { getAsset, pathOf } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { endAt } from '../scanning/index.ts';

/** So many fields of one asset are told, and so many columns that one comes from. */
const [MOST_FIELDS, MOST_FROM] = [500, 20];

/**
 * Where the fields of an asset come from, in one step: columns in the catalog that the person may see, and what the flows name that is not there (yet).
 * What they may not see is counted.
 */
export async function fieldOrigins(db: Db, who: Who, id: string): Promise<FieldOrigins> {
  await getAsset(db, who, id);
  const fields = await db.rows<FieldOrigins[number] & { all: FieldOrigins[number]['from'] }>(
    `
      with field as (
        select c.id, c.name, c.position
        from asset c
        where c.parent_id = $1 and c.kind = 'column' and c.gone_at is null and ${isSeen('c', '$2')}
        order by c.position, c.name
        limit ${MOST_FIELDS}
      ),
      known as (
        select f.id as field, a.id, ${pathOf('a', 's')} as path, s.name as source, e.kind, ${isSeen('a', '$2')} as seen
        from field f
        join lineage_edge e on e.to_id = f.id and not e.wrong
        join asset a on a.id = e.from_id
        join source s on s.id = a.source_id
        union
        select f.id, null::uuid, replace(e.from_path, chr(31), '.') || coalesce('.' || e.from_column, ''), e.from_place, e.kind, true
        from field f
        join remote_edge e on e.to_id = f.id and e.from_place is not null
        where not exists (select from (${endAt('from')}) there)
      )
      select
        f.id, f.name,
        coalesce(
          (
            select json_agg(json_build_object('id', k.id, 'path', k.path, 'source', k.source, 'kind', k.kind) order by k.path)
            from known k
            where k.field = f.id and k.seen
          ),
          '[]'
        ) as all,
        (select count(*)::int from known k where k.field = f.id and not k.seen) as hidden
      from field f
      order by f.position, f.name`,
    [id, who.domainsAs('reader')],
  );
  return fields.map(({ all, ...field }) => ({
    ...field,
    from: all.slice(0, MOST_FROM),
    more: Math.max(0, all.length - MOST_FROM),
  }));
}
