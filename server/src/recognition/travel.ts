import type { Arrival, TravelPreview } from '@idrel/contract/recognition';
import { USUAL_TRAVEL } from '@idrel/core/recognition/carried';
import { getAsset, PATH, pathOf } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import { asIf, type Database, type Db } from '../platform/database.ts';

/** So many are told one by one. */
const SHOWN = 200;

/**
 * Works out which classes travel where after what this transaction has changed; at its end that is done in any case. To be called before levels are locked.
 * @returns the assets of whose classes by lineage something is other than before: their levels are to be settled
 */
export async function settleTravel(tx: Db): Promise<string[]> {
  await tx.rows('select settle_travel_due()');
  const moved = await tx.rows<{ id: string }>('delete from travel_moved returning asset_id as id');
  return moved.map(({ id }) => id);
}

/** Works out what travels where after what this transaction has changed, without looking at whose levels follow: for who asks where tags came. */
export const settleArrivals = (tx: Db): Promise<unknown> => tx.rows('select settle_travel_due()');

/** Columns of an arrival `k` at `asset a` of `source s`; the ids of the domains that may be read are bound at a place. */
const told = (domains: string): string => `
  a.id as "assetId", ${PATH} as path, s.name as source, k.distance,
  (
    select json_build_object('id', f.id, 'path', ${pathOf('f', 'fs')})
    from asset f
    join source fs on fs.id = f.source_id
    where f.id = k.from_id and ${isSeen('f', domains)}
  ) as from`;

/** Which classes came to an asset along lineage, or to its columns, and from where; also those that somebody refused there. */
export async function arrivalsAt(db: Db, who: Who, id: string): Promise<Arrival[]> {
  await getAsset(db, who, id);
  return db.rows<Arrival>(
    `
      with here as (
        select a.*
        from asset a
        where (a.id = $1 or (a.parent_id = $1 and a.kind = 'column')) and a.gone_at is null and ${isSeen('a', '$2')}
      ),
      came as (
        select k.asset_id, k.class_key, k.from_id, k.distance, false as refused
        from here a
        join carried k on k.asset_id = a.id and k.via = 'lineage'
        union all
        (
          select distinct on (a.id, d.class_key) a.id, d.class_key, k.from_id, coalesce(k.distance, 0) + 1, true
          from here a
          join finding_decision d on d.asset_id = a.id and d.decision = 'dismissed'
          join lineage_edge e on e.to_id = a.id and not e.wrong
          join carried k on k.asset_id = e.from_id and k.class_key = d.class_key and k.via <> 'inside' and k.how <> 'to-settle'
          left join data_class t on t.key = d.class_key
          where e.kind = any(coalesce(t.travels, $4::text[]))
          order by a.id, d.class_key, coalesce(k.distance, 0), k.from_id
        )
      )
      select ${told('$2')}, k.class_key as "classKey", k.refused, a.domain_id = any($3::uuid[]) as "mayDecide"
      from came k
      join here a on a.id = k.asset_id
      join source s on s.id = a.source_id
      order by a.position, a.name, k.class_key
      limit ${SHOWN}`,
    [id, who.domainsAs('reader'), who.domainsAs('steward'), [...USUAL_TRAVEL]],
  );
}

/**
 * To what something would come along lineage, and from what it would go, if a rule of its travelling were another one: that is done, looked at, and taken back.
 * @param now SQL of what came where: `asset_id`, `value`, `from_id` and `distance`, of what is bound as $1
 * @param change makes it travel otherwise, in the transaction that is given
 */
export async function changesAlong(
  db: Database,
  who: Who,
  now: string,
  of: string,
  change: (tx: Db) => Promise<unknown>,
): Promise<TravelPreview> {
  return asIf(db, async (tx) => {
    await tx.run(`create temp table arrived_before on commit drop as ${now}`, [of]);
    await change(tx);
    await settleTravel(tx);
    const changing = `
      with changing as (
        select coalesce(n.asset_id, b.asset_id) as asset_id, coalesce(n.value, b.value) as value, coalesce(n.from_id, b.from_id) as from_id,
          coalesce(n.distance, b.distance) as distance, case when b.asset_id is null then 'comes' else 'goes' end as change
        from (${now}) n
        full join arrived_before b on b.asset_id = n.asset_id and b.value = n.value
        where n.asset_id is null or b.asset_id is null
      )`;
    const counts = await tx.one<{ comes: number; goes: number }>(
      `
        ${changing}
        select count(*) filter (where change = 'comes')::int as comes, count(*) filter (where change = 'goes')::int as goes
        from changing`,
      [of],
    );
    const shown = await tx.rows<TravelPreview['shown'][number]>(
      `
        ${changing}
        select ${told('$2')}, k.value, k.change
        from changing k
        join asset a on a.id = k.asset_id and a.gone_at is null
        join source s on s.id = a.source_id
        where ${isSeen('a', '$2')}
        order by s.name, a.key, k.value
        limit ${SHOWN}`,
      [of, who.domainsAs('reader')],
    );
    return { comes: counts?.comes ?? 0, goes: counts?.goes ?? 0, shown };
  });
}
