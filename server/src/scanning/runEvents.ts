import type { DatasetEvent, RunEvent } from '@idrel/contract/lineage';
import type { EventsAnswer } from '@idrel/contract/scanning';
import type { NextFunction, Request, Response } from 'express';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Context } from '../platform/context.ts';
import type { Db, Tx } from '../platform/database.ts';
import { ApiProblem, conflict } from '../platform/problems.ts';
import { digest, newToken } from '../platform/secrets.ts';
import { sourceFacts } from '../sources/index.ts';

/** With so many events of a source that wait, further ones are refused for a while: their sender tries again. */
const WAITING_MOST = 20_000;
/** Events are put together so soon after they came, those of that moment at once. */
const SOON = "interval '1 second'";
const PROBLEMS_TOLD = 10;

/** The source that takes events by the key that a program gives. @throws 401 */
export async function sourceOfKey(db: Db, bearer: string | undefined): Promise<string> {
  const key = /^Bearer (idrel_events_.+)$/.exec(bearer ?? '')?.[1];
  const found = key
    ? await db.one<{ id: string }>('select source_id as id from event_key where key_hash = $1', [digest(key)])
    : undefined;
  if (!found)
    throw new ApiProblem('unknown-pipeline', 'No source takes events by this key.', {
      mend: 'Make a key on the page of a source of the kind “Pipelines that send events”, and send it as a bearer token.',
    });
  return found.id;
}

/** Lets no pipeline past that has no key, before anything of what it sends is read. */
export const pipelinesOnly =
  ({ db }: Pick<Context, 'db'>) =>
  (request: Request, _response: Response, next: NextFunction): void =>
    void sourceOfKey(db, request.get('authorization')).then(() => next(), next);

/** What is told of a dataset alone is told by a job without a name, which is none: what it reads is known by it. */
const ofNoJob = ({ eventTime, dataset }: DatasetEvent): RunEvent => ({
  eventTime,
  job: { namespace: dataset.namespace, name: '' },
  inputs: [dataset],
});

/** Keeps an event, and has it put together with the others of its job. The same again changes nothing. */
export async function receiveEvent(tx: Tx, sourceId: string, received: RunEvent | DatasetEvent): Promise<void> {
  const event = 'dataset' in received ? ofNoJob(received) : received;
  const waiting = await tx.one<{ many: boolean }>(
    `
      select count(*) >= ${WAITING_MOST} as many
      from (select from run_event where source_id = $1 and settled_at is null limit ${WAITING_MOST}) e`,
    [sourceId],
  );
  if (waiting?.many)
    throw new ApiProblem('too-many-events', `${WAITING_MOST} events of this source wait to be put together.`, {
      mend: 'Send it again in a minute.',
    });
  const text = JSON.stringify(event);
  const kept = await tx.one(
    `
      insert into run_event (source_id, digest, namespace, job, event)
      values ($1, $2, $3, $4, $5)
      on conflict
      do nothing
      returning id`,
    [sourceId, digest(text), event.job.namespace, event.job.name, text],
  );
  if (!kept) return;
  // Written at most once a minute, so that events do not wait for each other at this row.
  await tx.run(
    "update event_key set used_at = now() where source_id = $1 and coalesce(used_at < now() - interval '1 minute', true)",
    [sourceId],
  );
  await tx.rows(
    `
      select graphile_worker.add_job(
        'run-events', json_build_object('sourceId', $1::text), job_key => 'run-events:' || $1::text,
        job_key_mode => 'preserve_run_at', run_at => now() + ${SOON}, max_attempts => 5
      )`,
    [sourceId],
  );
}

async function eventSource(db: Db, who: Who, id: string) {
  const source = await sourceFacts(db, who, id);
  who.must('source administrator', source.domainId);
  if (source.kind !== 'events')
    throw conflict(
      'not-pushed',
      `${source.name} takes no events: it is of another kind.`,
      'Register a source of the kind “Pipelines that send events”.',
    );
  return source;
}

/** Makes the key of a source that takes events; kept as a digest, told this once. The one before it ends. */
export async function makeEventKey(tx: Db, who: Who, sourceId: string): Promise<{ key: string }> {
  const { name, domainId } = await eventSource(tx, who, sourceId);
  const key = `idrel_events_${newToken()}`;
  await tx.run(
    `
      insert into event_key (source_id, key_hash, made_by)
      values ($1, $2, $3)
      on conflict (source_id) do update
      set key_hash = excluded.key_hash, made_by = excluded.made_by, made_at = now(), used_at = null`,
    [sourceId, digest(key), who.id],
  );
  await record(tx, who, 'event key made', { kind: 'source', id: sourceId, name, domainId }, null, null);
  return { key };
}

/** What came of the events of a source. */
export async function eventsOf(db: Db, who: Who, sourceId: string): Promise<EventsAnswer> {
  await eventSource(db, who, sourceId);
  const answer = await db.one<Omit<EventsAnswer, 'problems'>>(
    `
      select
        (
          select json_build_object('madeAt', k.made_at, 'madeBy', p.name, 'usedAt', k.used_at)
          from event_key k
          left join person p on p.id = k.made_by
          where k.source_id = $1
        ) as key,
        count(*)::int as received, count(*) filter (where settled_at is null)::int as waiting, max(received_at) as "lastAt",
        (select count(*)::int from event_job where source_id = $1 and name <> '') as jobs
      from run_event
      where source_id = $1`,
    [sourceId],
  );
  const problems = await db.rows<EventsAnswer['problems'][number]>(
    `
      select namespace || '/' || job as job, received_at as at, problem
      from run_event
      where source_id = $1 and problem is not null
      order by id desc
      limit ${PROBLEMS_TOLD}`,
    [sourceId],
  );
  return { key: null, received: 0, waiting: 0, jobs: 0, lastAt: null, ...answer, problems };
}
