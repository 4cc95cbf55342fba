import type { FlowRuns } from '@idrel/contract/scanning';
import type { FoundRun } from '@idrel/readers/connectors';
import { getAsset } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';

/** So many runs of a flow are kept, the last ones. */
const KEPT = 1000;

/** Keeps runs of flows, by the ids of their assets: what is told again is told anew, what is told no more stays, up to the last thousand of each. */
export async function storeRuns(
  tx: Db,
  told: readonly { readonly assetId: string; readonly runs: readonly FoundRun[] }[],
): Promise<void> {
  const rows = told.flatMap(({ assetId, runs }) =>
    runs.map(({ id, ...run }) => ({ asset_id: assetId, run_id: id, ...run })),
  );
  if (rows.length === 0) return;
  await tx.run(
    `
      insert into flow_run (asset_id, run_id, state, began, ended, rows, message, checks)
      select r.asset_id, r.run_id, r.state, r.began, r.ended, r.rows, r.message, r.checks
      from json_to_recordset($1::json) as r(
        asset_id uuid, run_id text, state text, began timestamptz, ended timestamptz, rows bigint, message text, checks jsonb
      )
      on conflict (asset_id, run_id) do update
      set
        state = excluded.state, began = least(excluded.began, flow_run.began), ended = coalesce(excluded.ended, flow_run.ended),
        rows = coalesce(excluded.rows, flow_run.rows), message = coalesce(excluded.message, flow_run.message),
        checks = case when excluded.checks = '[]' then flow_run.checks else excluded.checks end
      where (flow_run.state, flow_run.ended, flow_run.rows, flow_run.message, flow_run.checks)
        is distinct from (excluded.state, excluded.ended, excluded.rows, excluded.message, excluded.checks)`,
    [JSON.stringify(rows)],
  );
  await tx.run(
    `
      delete from flow_run r
      using (
        select asset_id, run_id, row_number() over (partition by asset_id order by at desc nulls last) as nth
        from flow_run
        where asset_id = any($1::uuid[])
      ) n
      where n.nth > ${KEPT} and r.asset_id = n.asset_id and r.run_id = n.run_id`,
    [told.map(({ assetId }) => assetId)],
  );
}

/** Runs of a flow, the newest first. */
export async function listFlowRuns(db: Db, who: Who, assetId: string, limit: number): Promise<FlowRuns> {
  await getAsset(db, who, assetId);
  const [items, count] = await Promise.all([
    db.rows<FlowRuns['items'][number]>(
      `
        select run_id as id, state, began, ended, rows::float8 as rows, message, checks
        from flow_run
        where asset_id = $1
        order by at desc nulls last, run_id
        limit $2`,
      [assetId, limit],
    ),
    db.one<{ total: number }>('select count(*)::int as total from flow_run where asset_id = $1', [assetId]),
  ]);
  return { items, total: count?.total ?? 0 };
}
