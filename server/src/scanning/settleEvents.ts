import type { RunEvent } from '@idrel/contract/lineage';
import { continued, foundOfJobs, type Job, readEvents } from '@idrel/readers/connectors';
import { record, service } from '../journal/index.ts';
import type { Database, Tx } from '../platform/database.ts';
import { digest } from '../platform/secrets.ts';
import type { WrittenSource } from './apply.ts';
import { canonical } from './compare.ts';
import { storeRuns } from './flowRuns.ts';
import { writeTold } from './told.ts';

/** So many events are put together at once, and so much of them in bytes as they are kept (packed). */
const [AT_ONCE, BYTES_AT_ONCE] = [2000, 8 << 20];
/** So many events of a job are kept when they are put together, the newest: for who wonders what came. */
const EVENTS_KEPT = 20;
/** By which what stands above the jobs of a source is known again. */
const TOP = 'pipelines';

type Source = WrittenSource & { readonly name: string };
interface JobName {
  readonly namespace: string;
  readonly job: string;
}
type Waiting = JobName & { readonly id: string; readonly event: RunEvent };

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
    if (some === 0) return settled;
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
      select w.id::text, w.namespace, w.job, w.event
      from (
        select
          e.*,
          coalesce(
            sum(pg_column_size(e.event)) over (order by e.id rows between unbounded preceding and 1 preceding), 0
          ) as before
        from run_event e
        where e.source_id = $1 and e.settled_at is null and coalesce(e.namespace = $2 and e.job = $3, true)
        order by e.id
        limit ${AT_ONCE}
      ) w
      where w.before < ${BYTES_AT_ONCE}
      order by w.id`,
    [sourceId, only?.namespace ?? null, only?.job ?? null],
  );
  if (waiting.length === 0) return 0;
  const named = [
    ...new Map(waiting.map(({ namespace, job }) => [JSON.stringify([namespace, job]), { namespace, job }])).values(),
  ];
  const known = await knownJobs(tx, sourceId, named);
  const jobs = readEvents(waiting.map(({ event }) => event)).map((job) => continued(job, known.get(nameOf(job))?.job));
  const changed = jobs.some((job) => known.get(nameOf(job))?.print !== printOf(job));
  await keepJobs(tx, sourceId, jobs);
  if (changed)
    await writeJobs(
      tx,
      source,
      [...(await knownJobs(tx, sourceId, null)).values()].map(({ job }) => job),
    );
  else await noteRuns(tx, sourceId, jobs);
  await tx.run('update run_event set settled_at = now() where id = any($1::bigint[])', [waiting.map(({ id }) => id)]);
  await forgetOld(tx, sourceId, named);
  return waiting.length;
}

const nameOf = ({ namespace, name }: { namespace: string; name: string }) => JSON.stringify([namespace, name]);
/** Of all that is written of a job beside its runs. */
const printOf = ({ runs: _runs, told: _told, ...job }: Job): string => digest(canonical(job)).toString('hex');

/** @param names of the jobs that are wanted; null: all of the source */
async function knownJobs(
  tx: Tx,
  sourceId: string,
  names: readonly JobName[] | null,
): Promise<Map<string, { print: string; job: Job }>> {
  const rows = await tx.rows<{ print: string; job: Job }>(
    `
      select print, job
      from event_job
      where source_id = $1
        and ($2::json is null or (namespace, name) in (select * from json_to_recordset($2::json) as n(namespace text, job text)))`,
    [sourceId, names === null ? null : JSON.stringify(names)],
  );
  // Jobs that were put together before what decides about rows was read have none of it.
  return new Map(
    rows.map(({ print, job }) => [nameOf(job), { print, job: { ...job, influences: job.influences ?? [] } }]),
  );
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
          offset ${EVENTS_KEPT}
          limit 1
        )`,
    [sourceId, JSON.stringify(jobs)],
  );
