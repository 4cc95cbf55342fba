import type { RunEvent } from '@idrel/contract/lineage';
import { type FoundRun, foundOfJobs, type Job, readEvents } from '@idrel/readers/connectors';
import { record, service } from '../journal/index.ts';
import type { Database, Tx } from '../platform/database.ts';
import { digest } from '../platform/secrets.ts';
import type { WrittenSource } from './apply.ts';
import { canonical } from './compare.ts';
import { storeRuns } from './flowRuns.ts';
import { writeTold } from './told.ts';

/** So many events are put together at once. */
const AT_ONCE = 2000;
/** So many of a job's events are kept and looked at, the newest. */
const OF_A_JOB = 300;
/** By which what stands above the jobs of a source is known again. */
const TOP = 'pipelines';

type Source = WrittenSource & { readonly name: string };
interface JobName {
  readonly namespace: string;
  readonly job: string;
}
type Waiting = JobName & { readonly id: string };

/**
 * Puts together the events of a source that wait: runs are noted at once; what jobs do is written into the catalog, as a run of the source, when that has
 * changed.
 * @returns how many there were
 */
export async function settleEvents(db: Database, sourceId: string): Promise<number> {
  let settled = 0;
  for (;;) {
    const some = await db.transaction((tx) => settleSome(tx, sourceId)).catch(() => oneByOne(db, sourceId));
    settled += some;
    if (some < AT_ONCE) return settled;
  }
}

/** Events of one job that cannot be put together keep no others waiting: each job is tried by itself, and what fails is set aside with the reason. */
async function oneByOne(db: Database, sourceId: string): Promise<number> {
  const jobs = await db.rows<JobName>(
    'select distinct namespace, job from run_event where source_id = $1 and settled_at is null',
    [sourceId],
  );
  let settled = 0;
  for (const job of jobs)
    settled += await db
      .transaction((tx) => settleSome(tx, sourceId, job))
      .catch(async (error: unknown) => {
        const aside = await db.rows(
          `
            update run_event
            set settled_at = now(), problem = $4
            where source_id = $1 and namespace = $2 and job = $3 and settled_at is null
            returning id`,
          [sourceId, job.namespace, job.job, String((error as Error).message).slice(0, 500)],
        );
        return aside.length;
      });
  return settled;
}

/** @param only events of this job, where it is to be tried by itself */
async function settleSome(tx: Tx, sourceId: string, only?: JobName): Promise<number> {
  const source = await tx.one<Source>(
    'select id, name, domain_id as "domainId", address from source where id = $1 for update',
    [sourceId],
  );
  if (!source) return 0;
  const waiting = await tx.rows<Waiting>(
    `
      select id::text, namespace, job
      from run_event
      where source_id = $1 and settled_at is null and coalesce(namespace = $2 and job = $3, true)
      order by id
      limit ${AT_ONCE}`,
    [sourceId, only?.namespace ?? null, only?.job ?? null],
  );
  if (waiting.length === 0) return 0;
  const named = [
    ...new Map(waiting.map(({ namespace, job }) => [JSON.stringify([namespace, job]), { namespace, job }])).values(),
  ];
  const kept = await tx.rows<{ event: RunEvent }>(
    `
      select e.event
      from json_to_recordset($2::json) as j(namespace text, job text)
      cross join lateral (
        select event
        from run_event
        where source_id = $1 and namespace = j.namespace and job = j.job
        order by id desc
        limit ${OF_A_JOB}
      ) e`,
    [sourceId, JSON.stringify(named)],
  );
  const known = await knownJobs(tx, sourceId);
  const jobs = readEvents(kept.map(({ event }) => event)).map((job) => completed(job, known.get(nameOf(job))?.job));
  const changed = jobs.filter((job) => known.get(nameOf(job))?.print !== printOf(job));
  await keepJobs(tx, sourceId, jobs);
  if (changed.length > 0) {
    for (const job of jobs) known.set(nameOf(job), { print: printOf(job), job });
    await writeJobs(
      tx,
      source,
      [...known.values()].map(({ job }) => job),
    );
  } else await noteRuns(tx, sourceId, jobs);
  await tx.run('update run_event set settled_at = now() where id = any($1::bigint[])', [waiting.map(({ id }) => id)]);
  await forgetOld(tx, sourceId, named);
  return waiting.length;
}

const nameOf = ({ namespace, name }: { namespace: string; name: string }) => JSON.stringify([namespace, name]);
/** Of all that is written of a job beside its runs. */
const printOf = ({ runs: _, ...job }: Job): string => digest(canonical(job)).toString('hex');

/** What older events told, which are kept no more, still holds as long as newer ones say nothing of it. */
function completed(job: Job, before: Job | undefined): Job {
  if (!before) return job;
  const runs = new Map<string, FoundRun>([...before.runs, ...job.runs].map((run) => [run.id, run]));
  const told = job.writes.length > 0 ? job : before;
  const datasets = new Map(before.datasets.map((dataset) => [nameOf(dataset), dataset]));
  for (const dataset of job.datasets)
    if (dataset.fields.length > 0 || !datasets.has(nameOf(dataset))) datasets.set(nameOf(dataset), dataset);
  return {
    ...job,
    description: job.description || before.description,
    code: job.code ?? before.code,
    language: job.language ?? before.language,
    codeAt: job.codeAt ?? before.codeAt,
    runs: [...runs.values()].slice(-OF_A_JOB),
    reads: told.reads,
    writes: told.writes,
    edges: job.edges.length > 0 ? job.edges : told.edges,
    problems: told.problems,
    datasets: [...datasets.values()],
  };
}

async function knownJobs(tx: Tx, sourceId: string): Promise<Map<string, { print: string; job: Job }>> {
  const rows = await tx.rows<{ print: string; job: Job }>('select print, job from event_job where source_id = $1', [
    sourceId,
  ]);
  return new Map(rows.map((row) => [nameOf(row.job), row]));
}

const keepJobs = (tx: Tx, sourceId: string, jobs: readonly Job[]): Promise<unknown> =>
  tx.run(
    `
      insert into event_job (source_id, namespace, name, print, job)
      select $1, r.namespace, r.name, r.print, r.job
      from json_to_recordset($2::json) as r(namespace text, name text, print text, job jsonb)
      on conflict (source_id, namespace, name) do update
      set print = excluded.print, job = excluded.job`,
    [
      sourceId,
      JSON.stringify(jobs.map((job) => ({ namespace: job.namespace, name: job.name, print: printOf(job), job }))),
    ],
  );

/** Writes all jobs of the source into the catalog, as a run of it: compared with what was there, all or nothing. */
async function writeJobs(tx: Tx, source: Source, jobs: readonly Job[]): Promise<void> {
  const { assets, flows } = foundOfJobs(TOP, {}, jobs, source.name);
  const { runId, comparison } = await writeTold(tx, source, null, { assets, flows, covers: () => true });
  await record(
    tx,
    service('run events'),
    'events put together',
    { kind: 'source', id: source.id, name: source.name, domainId: source.domainId },
    null,
    { run: runId, ...comparison.counts },
  );
}

/** Notes runs of jobs of which nothing else has changed. */
async function noteRuns(tx: Tx, sourceId: string, jobs: readonly Job[]): Promise<void> {
  const { assets, flows } = foundOfJobs(TOP, {}, jobs);
  const stats = new Map(assets.map(({ key, stats: told }) => [key, told]));
  await tx.run(
    `
      update asset a
      set stats = r.stats, last_seen = now()
      from json_to_recordset($2::json) as r(key text, stats jsonb)
      where a.source_id = $1 and a.key = r.key and a.kind = 'flow' and a.stats is distinct from r.stats`,
    [sourceId, JSON.stringify(flows.map(({ key }) => ({ key, stats: stats.get(key) ?? {} })))],
  );
  const rows = await tx.rows<{ id: string; key: string }>(
    'select id, key from asset where source_id = $1 and key = any($2::text[])',
    [sourceId, flows.map(({ key }) => key)],
  );
  const runs = new Map(flows.map(({ key, runs: told = [] }) => [key, told]));
  await storeRuns(
    tx,
    rows.map(({ id, key }) => ({ assetId: id, runs: runs.get(key) ?? [] })),
  );
}

/** Of each job the newest events are kept, and those that could not be put together. */
const forgetOld = (tx: Tx, sourceId: string, jobs: readonly JobName[]): Promise<unknown> =>
  tx.run(
    `
      delete from run_event e
      using json_to_recordset($2::json) as j(namespace text, job text)
      where e.source_id = $1 and e.namespace = j.namespace and e.job = j.job and e.settled_at is not null and e.problem is null
        and e.id <= (
          select o.id
          from run_event o
          where o.source_id = $1 and o.namespace = j.namespace and o.job = j.job
          order by o.id desc
          offset ${OF_A_JOB}
          limit 1
        )`,
    [sourceId, JSON.stringify(jobs)],
  );
