import type { FailedFlow } from '@idrel/contract/worklist';
import { getAsset, PATH, PRIORITY, pathOf } from '../catalog/index.ts';
import { partiesOf, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';

/** So far down from a flow it is looked who is concerned, and so many assets of each are told. */
const RINGS = 6;
const TOLD = 60;
/** What failed longer ago is no news. */
const DAYS = 60;

const MINE = (asset: string) => `
  (
    exists (
      select from asset_person p
      where p.asset_id = ${asset}.id and p.role = 'owner' and p.person_id in (${partiesOf('$1')})
    )
    or ${asset}.domain_id = any($2::uuid[])
      and not exists (select from asset_person p where p.asset_id = ${asset}.id and p.role = 'owner')
  )`;

/**
 * Flows whose last run failed, that are a person's or that something of theirs is made by: what they own, or what nobody owns in domains where they are
 * a steward.
 */
export const failedFlows = (db: Db, who: Who): Promise<FailedFlow[]> =>
  db.rows<FailedFlow>(
    `
      with recursive failed as (
        select a.id, r.run_id, r.at, r.message
        from asset a
        cross join lateral (
          select run_id, at, state, message
          from flow_run
          where asset_id = a.id
          order by at desc nulls last
          limit 1
        ) r
        where a.kind = 'flow' and a.stats ->> 'lastState' = 'failed' and r.state = 'failed' and a.gone_at is null
          and a.domain_id = any($3::uuid[]) and r.at > now() - interval '${DAYS} days'
          and not exists (
            select from failed_seen v where (v.asset_id, v.run_id, v.person_id) = (a.id, r.run_id, $1::uuid)
          )
      ),
      behind(root, id, distance) as (
        select failed.id, x.to_id, 1
        from failed
        join flow f on f.asset_id = failed.id
        join lineage_feed x on x.flow_id = f.id
        union
        select b.root, x.to_id, b.distance + 1
        from behind b
        join lineage_feed x on x.from_id = b.id
        where b.distance < ${RINGS}
      ),
      nearest as (select root, id, min(distance) as distance from behind group by 1, 2),
      reached as (
        select n.root, d.id, d.kind, ${pathOf('d', 'ds')} as path, ds.name as source, n.distance, ${MINE('d')} as mine
        from nearest n
        join asset d on d.id = n.id
        join source ds on ds.id = d.source_id
        where d.gone_at is null and d.domain_id = any($3::uuid[])
      )
      select
        a.id, ${PATH} as path, s.id as "sourceId", s.name as source, failed.run_id as "runId", failed.at, failed.message,
        coalesce(
          (
            select json_agg(json_build_object(
              'id', t.id, 'kind', t.kind, 'path', t.path, 'source', t.source, 'distance', t.distance, 'mine', t.mine
            ) order by not t.mine, t.distance, t.path)
            from (select * from reached r where r.root = a.id order by not r.mine, r.distance, r.path limit ${TOLD}) t
          ),
          '[]'
        ) as reached
      from failed
      join asset a on a.id = failed.id
      join source s on s.id = a.source_id
      where ${MINE('a')} or exists (select from reached r where r.root = a.id and r.mine)
      order by ${PRIORITY} desc, failed.at desc
      limit 50`,
    [who.id, who.domainsAs('steward'), who.domainsAs('reader')],
  );

/** Takes a failed run off a person's worklist, or puts it back. */
export async function seeFailed(db: Db, who: Who, assetId: string, runId: string, seen: boolean): Promise<void> {
  await getAsset(db, who, assetId);
  if (seen)
    await db.run(
      `
        insert into failed_seen (asset_id, run_id, person_id)
        select asset_id, run_id, $3 from flow_run where (asset_id, run_id) = ($1, $2)
        on conflict
        do nothing`,
      [assetId, runId, who.id],
    );
  else
    await db.run('delete from failed_seen where (asset_id, run_id, person_id) = ($1, $2, $3)', [
      assetId,
      runId,
      who.id,
    ]);
}
