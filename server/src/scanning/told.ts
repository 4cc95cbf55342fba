import type { RunComparison, RunCounts } from '@idrel/contract/scanning';
import type { Tx } from '../platform/database.ts';
import { conflict } from '../platform/problems.ts';
import { applyRun, type RunResult, type WrittenSource } from './apply.ts';

/** What is told of a source that is not read. */
export type Told = Pick<RunResult, 'covers'> &
  Pick<RunResult['structure'], 'assets'> &
  Partial<Pick<RunResult, 'flows' | 'findings' | 'profiles'>>;

/**
 * Writes what programs or people tell of a source as a run of it, which has ended: compared with what was there, all or nothing, like what a scan reads.
 * @param askedBy the person who told it; null: no person did
 * @throws 409 while it is being written by somebody else
 */
export async function writeTold(
  tx: Tx,
  source: WrittenSource & { readonly name: string },
  askedBy: string | null,
  { assets, covers, flows = [], findings = new Map(), profiles = new Map() }: Told,
): Promise<{ runId: string; comparison: RunComparison }> {
  const objects = assets.filter(({ kind }) => kind !== 'column').length;
  const counts: RunCounts = {
    objects,
    columns: assets.length - objects,
    findings: [...findings.values()].reduce((sum, list) => sum + list.length, 0),
    flows: flows.length,
    edges: flows.reduce((sum, { edges, remote = [] }) => sum + edges.length + remote.length, 0),
  };
  const run = await tx.one<{ id: string }>(
    `
      insert into scan_run (source_id, asked_by, state, started_at, counts)
      values ($1, $2, 'structure', now(), $3)
      on conflict
      do nothing
      returning id`,
    [source.id, askedBy, JSON.stringify(counts)],
  );
  if (!run) throw conflict('run-going', `${source.name} is being written already.`, 'Try again when that has ended.');
  const comparison = await applyRun(tx, source, run.id, {
    structure: { assets, sampleable: [] },
    findings,
    sampled: new Map(),
    profiles,
    flows,
    covers,
  });
  await tx.run("update scan_run set state = 'done', comparison = $2, ended_at = clock_timestamp() where id = $1", [
    run.id,
    JSON.stringify(comparison),
  ]);
  return { runId: run.id, comparison };
}
