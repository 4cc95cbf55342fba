import type { FailedFlow } from '@idrel/contract/worklist';
import { getAsset, IS_MINE, PATH, PRIORITY, REACHED_BEHIND } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';

/** What failed longer ago is no news. */
const DAYS = 60;

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
          and ${isSeen('a', '$3')} and r.at > now() - interval '${DAYS} days'
          and not exists (
            select from failed_seen v where (v.asset_id, v.run_id, v.person_id) = (a.id, r.run_id, $1::uuid)
          )
      ),
      ${REACHED_BEHIND(
        'select failed.id as root, x.to_id as id from failed join flow f on f.asset_id = failed.id join lineage_feed x on x.flow_id = f.id',
      )}
      select
        a.id, ${PATH} as path, s.id as "sourceId", s.name as source, failed.run_id as "runId", failed.at, failed.message,
        coalesce((select t.told from told_behind t where t.root = a.id), '[]') as reached
      from failed
      join asset a on a.id = failed.id
      join source s on s.id = a.source_id
      where ${IS_MINE('a')} or exists (select from reached r where r.root = a.id and r.mine)
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
