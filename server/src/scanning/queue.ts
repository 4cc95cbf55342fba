import type { Db } from '../platform/database.ts';
import { detectorsNow, setOptions } from '../recognition/index.ts';

/** Queues a run: row and job in one transaction, so that neither is there without the other. @returns its id; undefined when the source is being scanned already */
export async function queueRun(
  tx: Db,
  {
    sourceId,
    planId,
    options,
    askedBy,
    afterMinutes = 0,
  }: { sourceId: string; planId: string | null; options: object; askedBy: string | null; afterMinutes?: number },
): Promise<string | undefined> {
  // A try that waits for its time gives way to whatever is asked for now.
  if (afterMinutes === 0)
    await tx.run(
      `
        update scan_run
        set state = 'cancelled', ended_at = now()
        where source_id = $1 and state = 'waiting' and not_before > now()`,
      [sourceId],
    );
  const { detectorSetId } = options as { detectorSetId?: unknown };
  const setId = typeof detectorSetId === 'string' ? detectorSetId : undefined;
  // The run keeps what it looked with, whatever becomes of the set.
  const { off, own } = await detectorsNow(tx);
  const set = setId === undefined ? undefined : await setOptions(tx, setId);
  const left = new Set([...off, ...(set?.leavesOut ?? [])]);
  const used = {
    leaveOut: [...left],
    own: own.filter((detector) => !left.has(detector.id)),
    ...options,
    ...set?.reading,
  };
  const [row] = await tx.rows<{ id: string }>(
    `
      insert into scan_run (source_id, plan_id, options, asked_by, not_before)
      values ($1, $2, $3, $4, case when $5::int > 0 then now() + $5 * interval '1 minute' end)
      on conflict
      do nothing
      returning id`,
    [sourceId, planId, JSON.stringify(used), askedBy, afterMinutes],
  );
  // What is left to agents waits for one of them; the rest is a job of the workers.
  if (row)
    await tx.rows(
      `
        select graphile_worker.add_job(
          'scan', json_build_object('runId', r.id::text), max_attempts => 1, run_at => coalesce(r.not_before, now())
        )
        from scan_run r
        join source s on s.id = r.source_id
        where r.id = $1 and s.agent_group is null`,
      [row.id],
    );
  return row?.id;
}
