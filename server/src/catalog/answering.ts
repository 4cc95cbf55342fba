import type { AssetAnswer } from '@idrel/contract/catalog';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';

/**
 * Who answers for an asset that has no owner of its own: the owners of the nearest asset that it lies in and that has some, else the owner of the nearest
 * domain that has one. Null where nobody does.
 */
export async function inheritedOwners(db: Db, who: Who, assetId: string): Promise<AssetAnswer['inherited']> {
  const found = await db.one<NonNullable<AssetAnswer['inherited']>>(
    `
      with recursive up as (
        select a.parent_id, 0 as distance from asset a where a.id = $1
        union all
        select p.parent_id, up.distance + 1 from up join asset p on p.id = up.parent_id
      ),
      above as (
        select d.id, d.name, d.parent_id, d.owner_id, 0 as distance
        from domain d
        where d.id = (select domain_id from asset where id = $1)
        union all
        select d.id, d.name, d.parent_id, d.owner_id, above.distance + 1 from above join domain d on d.id = above.parent_id
      ),
      found as (
        select 0 as nth, up.distance, a.kind, a.id, a.name, json_agg(o.told order by o.name) as owners
        from up
        join asset a on a.id = up.parent_id and ${isSeen('a', '$2')}
        join lateral (
          select p.name, json_build_object('id', p.id, 'name', p.name, 'job', p.job) as told
          from asset_person x
          join party p on p.id = x.person_id
          where x.asset_id = a.id and x.role = 'owner'
        ) o on true
        group by a.id, up.distance
        union all
        select 1, above.distance, 'domain', above.id, above.name, json_build_array(json_build_object('id', p.id, 'name', p.name, 'job', p.job))
        from above
        join person p on p.id = above.owner_id and p.left_at is null
      )
      select owners, json_build_object('kind', kind, 'id', id, 'name', name) as from
      from found
      order by nth, distance
      limit 1`,
    [assetId, who.domainsAs('reader')],
  );
  return found ?? null;
}
