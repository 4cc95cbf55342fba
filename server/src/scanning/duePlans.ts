import type { ScanOptions, Schedule, Scope } from '@idrel/contract/scanning';
import { nextTimes } from '@idrel/core/scanning';
import type { Db } from '../platform/database.ts';
import { queueRun } from './queue.ts';

/**
 * Starts what is due. A plan whose times were missed is made up once, and goes on from now; one whose source is being scanned stays due.
 * Several workers may call this at once. @returns how many runs were queued
 */
export async function startDuePlans(tx: Db, now = new Date()): Promise<number> {
  const due = await tx.rows<{ id: string; sourceId: string; scope: Scope; options: ScanOptions; schedule: Schedule }>(
    `
      select id, source_id as "sourceId", scope, options, schedule
      from scan_plan
      where enabled and next_at <= $1
      order by next_at
      limit 50
      for update skip locked`,
    [now.toISOString()],
  );
  let started = 0;
  for (const plan of due) {
    if (
      !(await queueRun(tx, {
        sourceId: plan.sourceId,
        planId: plan.id,
        options: { ...plan.options, scope: plan.scope },
        askedBy: null,
      }))
    )
      continue;
    started += 1;
    const [next] = nextTimes(plan.schedule, now.getTime(), 1);
    await tx.run('update scan_plan set next_at = $2 where id = $1', [
      plan.id,
      next === undefined ? null : new Date(next).toISOString(),
    ]);
  }
  return started;
}
