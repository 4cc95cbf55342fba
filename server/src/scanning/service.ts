import type { BodyOf } from '@idrel/contract/http';
import type { RunAnswer, scanEndpoints } from '@idrel/contract/scanning';
import type { Scope } from '@idrel/core/scanning';
import { record, type Told } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, notFound } from '../platform/problems.ts';
import { TELL } from '../platform/signals.ts';
import { type SourceFacts, sourceFacts } from '../sources/index.ts';
import { AWAY, below } from './agents.ts';
import { queueRun } from './queue.ts';
import { asSeen } from './seenRuns.ts';

/** Runs. @param more what of them is asked for beside what lists show */
const runsSql = (more = '') => `
  select
    r.id, ${more} r.source_id as "sourceId", s.name as source, r.state, r.counts, r.comparison, r.problem, sp.id as "planId",
    sp.name as plan, r.not_covered as "notCovered", coalesce(p.name, case s.kind when 'events' then 'events' else 'schedule' end) as "askedBy", ag.name as agent,
    case
      when r.state = 'waiting' and s.agent_group is not null
      then json_build_object('group', s.agent_group, 'present', (
        select count(*)::int
        from agent x
        where x.group_name = s.agent_group and x.last_contact > now() - ${AWAY} and s.domain_id in (${below('x.domain_id')})
      ))
    end as "waitsFor",
    r.asked_at as "askedAt", case when r.state = 'waiting' and r.not_before > now() then r.not_before end as "notBefore",
    r.started_at as "startedAt", r.ended_at as "endedAt"
  from scan_run r
  join source s on s.id = r.source_id
  left join person p on p.id = r.asked_by
  left join scan_plan sp on sp.id = r.plan_id
  left join agent ag on ag.id = r.agent_id`;

export async function getRun(db: Db, who: Who, id: string): Promise<RunAnswer> {
  const run = await db.one<RunAnswer>(
    `${runsSql('r.pace, r.details,')} where r.id = $1 and s.domain_id = any($2::uuid[])`,
    [id, who.domainsAs('reader')],
  );
  if (!run) throw notFound('The run');
  const [seen = run] = await asSeen(db, who, [run]);
  return seen;
}

export async function listRuns(db: Db, who: Who, sourceId: string): Promise<RunAnswer[]> {
  await sourceFacts(db, who, sourceId);
  return asSeen(
    db,
    who,
    await db.rows<RunAnswer>(`${runsSql()} where r.source_id = $1 order by r.asked_at desc limit 100`, [sourceId]),
  );
}

/**
 * A run that a person asks for, which stands in the journal of its source.
 * @param more what the journal tells of it beside the run itself
 * @throws 403; 409 while the source is being scanned
 */
export async function askForRun(
  tx: Db,
  who: Who,
  source: Pick<SourceFacts, 'id' | 'name' | 'domainId'>,
  { planId = null, options }: { planId?: string | null; options: object },
  more: Told = {},
): Promise<RunAnswer> {
  who.must('source administrator', source.domainId);
  const run = await queueRun(tx, { sourceId: source.id, planId, options, askedBy: who.id });
  if (!run)
    throw conflict('run-going', `${source.name} is being scanned already.`, 'Wait until that run ends, or cancel it.');
  const subject = { kind: 'source', id: source.id, name: source.name, domainId: source.domainId } as const;
  await record(tx, who, 'scan asked', subject, null, { run, ...more });
  return getRun(tx, who, run);
}

/** A scan of everything, asked for by a person. */
export const startRun = async (
  tx: Db,
  who: Who,
  sourceId: string,
  options: BodyOf<typeof scanEndpoints.start>,
): Promise<RunAnswer> => askForRun(tx, who, await sourceFacts(tx, who, sourceId), { options });

/** A run of just what could not be read in another one. */
export async function runFailedAgain(tx: Db, who: Who, id: string): Promise<RunAnswer> {
  const run = await getRun(tx, who, id);
  const source = await sourceFacts(tx, who, run.sourceId);
  who.must('source administrator', source.domainId);
  const paths = [...new Set((run.details?.problems ?? []).map((problem) => problem.path))];
  if (paths.length === 0)
    throw conflict(
      'nothing-failed',
      'Nothing failed in this run, or it did not come to its end.',
      'Scan the source again.',
    );
  const before = await tx.one<{ options: BodyOf<typeof scanEndpoints.start> }>(
    'select options from scan_run where id = $1',
    [id],
  );
  const scope: Scope = { cover: 'chosen', chosen: paths, include: [], exclude: [] };
  const options = { ...before?.options, onlyChanged: false, scope };
  return askForRun(tx, who, source, { options }, { again: paths.length });
}

export async function cancelRun(tx: Db, who: Who, id: string): Promise<RunAnswer> {
  const run = await getRun(tx, who, id);
  const source = await sourceFacts(tx, who, run.sourceId);
  who.must('source administrator', source.domainId);
  // A run that still waits ends here; one that works is told, and ends at its next beat.
  await tx.run(
    `
      update scan_run
      set
        cancel_asked = true, state = case when state = 'waiting' then 'cancelled' else state end,
        ended_at = case when state = 'waiting' then now() end
      where id = $1 and ended_at is null`,
    [id],
  );
  await tx.rows(TELL, [`run:${id}`]);
  return getRun(tx, who, id);
}
