import type { DatasetName } from '@idrel/contract/lineage';
import type { FoundRun } from '../types.ts';
import { alsoTold, type Job, RUNS_MOST } from './openLineage.ts';

const named = ({ namespace, name }: DatasetName) => `${namespace}\n${name}`;

const earliest = (a: string | null, b: string | null): string | null =>
  a === null || b === null ? (a ?? b) : Date.parse(a) <= Date.parse(b) ? a : b;

/** A run, of which some events were put together before: an end stays one, and what was told stays told. */
function merged(before: FoundRun | undefined, run: FoundRun): FoundRun {
  if (!before) return run;
  const ended = before.state !== 'running' && run.state === 'running' ? before : run;
  return {
    id: run.id,
    state: ended.state,
    ended: ended.ended,
    began: earliest(run.began, before.began),
    rows: run.rows ?? before.rows,
    message: run.message ?? before.message,
    checks: run.checks.length > 0 ? run.checks : before.checks,
  };
}

/**
 * What new events say of a job, with what those before them told as long as nothing newer was said: of events in the order of their times it comes to the
 * same as reading them all at once, wherever they are parted.
 */
export function continued(job: Job, before: Job | undefined): Job {
  if (!before) return job;
  const runs = new Map(before.runs.map((run) => [run.id, run]));
  for (const run of job.runs) runs.set(run.id, merged(runs.get(run.id), run));
  const at = ({ began, ended }: FoundRun) => Date.parse(ended ?? began ?? '');
  const datasets = new Map(before.datasets.map((dataset) => [named(dataset), dataset]));
  for (const dataset of job.datasets) datasets.set(named(dataset), alsoTold(dataset, datasets.get(named(dataset))));
  const { reads, writes, edges, influences, problems, told } = isNewer(job.told, before.told) ? job : before;
  return {
    ...job,
    description: job.description || before.description,
    code: job.code ?? before.code,
    language: job.language ?? before.language,
    codeAt: job.codeAt ?? before.codeAt,
    runs: [...runs.values()].sort((a, b) => at(a) - at(b)).slice(-RUNS_MOST),
    ...{ reads, writes, edges, influences, problems, told },
    datasets: [...datasets.values()],
  };
}

/** What tells of columns counts before what does not; then the newest. */
function isNewer(told: Job['told'], before: Job['told']): boolean {
  if (told === null || before === null) return before === null;
  if (told.columns !== before.columns) return told.columns;
  return Date.parse(told.at) >= Date.parse(before.at);
}
