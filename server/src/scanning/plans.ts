import type { PlanAnswer, RunAnswer, ScanOptions, Schedule, Scope } from '@idrel/contract/scanning';
import { KINDS } from '@idrel/contract/sources';
import { describeSchedule, describeScope, nextTimes, PatternError, scopeCover } from '@idrel/core/scanning';
import { change, create, type Kept, remove, say } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid, notFound } from '../platform/problems.ts';
import { mustHaveSet } from '../recognition/index.ts';
import { type SourceFacts, sourceFacts } from '../sources/index.ts';
import { canonical } from './compare.ts';
import { PLAN, type PlanRow } from './models.ts';
import { isoTimes, nextAt } from './planTimes.ts';
import { askForRun } from './service.ts';

interface ShownPlan {
  id: string;
  sourceId: string;
  source: string;
  domainId: string;
  name: string;
  scope: Scope;
  options: ScanOptions;
  schedule: Schedule | null;
  enabled: boolean;
  version: number;
  lastRun: PlanAnswer['lastRun'];
}

const SELECT = `
  select
    p.id, p.source_id as "sourceId", s.name as source, s.domain_id as "domainId", p.name, p.scope, p.options, p.schedule,
    p.enabled, p.version,
    (
      select json_build_object('id', r.id, 'state', r.state, 'at', coalesce(r.ended_at, r.asked_at))
      from scan_run r
      where r.plan_id = p.id
      order by r.asked_at desc
      limit 1
    ) as "lastRun"
  from scan_plan p
  join source s on s.id = p.source_id`;

/** What plans of older versions do not say. */
const UNSAID: Omit<ScanOptions, 'sample' | 'rows'> = {
  onlyChanged: false,
  profile: true,
  detectorSetId: null,
  method: 'random',
  minutes: null,
  retries: 0,
  memoryMb: null,
  fileKinds: null,
};

function toAnswer(row: ShownPlan, who: Who): PlanAnswer {
  const { domainId, ...plan } = row;
  return {
    ...plan,
    options: { ...UNSAID, ...plan.options },
    scopeSentence: describeScope(row.scope),
    scheduleSentence: row.schedule ? describeSchedule(row.schedule) : null,
    next: row.enabled ? isoTimes(row.schedule, Date.now()) : [],
    mayEdit: who.is('source administrator', domainId),
  };
}

export async function listPlans(db: Db, who: Who, sourceId: string): Promise<PlanAnswer[]> {
  await sourceFacts(db, who, sourceId);
  const rows = await db.rows<ShownPlan>(`${SELECT} where p.source_id = $1 order by p.name`, [sourceId]);
  return rows.map((row) => toAnswer(row, who));
}

async function getRow(db: Db, who: Who, id: string): Promise<ShownPlan> {
  const row = await db.one<ShownPlan>(`${SELECT} where p.id = $1 and s.domain_id = any($2::uuid[])`, [
    id,
    who.domainsAs('reader'),
  ]);
  if (!row) throw notFound('The scan plan');
  return row;
}
export const getPlan = async (db: Db, who: Who, id: string): Promise<PlanAnswer> =>
  toAnswer(await getRow(db, who, id), who);

/** Checks what schemas cannot: patterns, time zones, and that a schedule has a time to come. */
export function check(source: SourceFacts, scope: Scope | undefined, schedule: Schedule | null | undefined): void {
  if (scope) {
    try {
      scopeCover(scope, KINDS[source.kind].separator);
    } catch (error) {
      if (error instanceof PatternError)
        throw invalid(error.message, 'A * stands for anything within a name, ** for anything.', [
          { field: 'scope', message: error.message },
        ]);
      throw error;
    }
    if (scope.cover === 'chosen' && scope.chosen.length + scope.include.length === 0)
      throw invalid('The plan covers nothing.', 'Choose at least one object, or write an include pattern.', [
        { field: 'scope', message: 'covers nothing' },
      ]);
  }
  if (!schedule) return;
  let times: number[];
  try {
    times = nextTimes(schedule, Date.now(), 1);
  } catch (error) {
    throw invalid(
      `The schedule cannot be read: ${(error as Error).message}.`,
      'Check the date, and that the time zone is one like Europe/Oslo.',
      [{ field: 'schedule', message: (error as Error).message }],
    );
  }
  if (times.length === 0)
    throw invalid('The schedule has no time to come.', 'Choose a later date, or shorter blackout hours.', [
      { field: 'schedule', message: 'has no time to come' },
    ]);
}
const planForJournal = (plan: {
  name: string;
  scope: Scope;
  options: ScanOptions;
  schedule: Schedule | null;
  enabled: boolean;
}) => ({
  name: plan.name,
  covers: describeScope(plan.scope),
  runs: plan.schedule ? describeSchedule(plan.schedule) : 'when asked',
  reads: plan.options.onlyChanged ? 'what has changed' : 'everything',
  sampling: plan.options.sample
    ? `${plan.options.rows} values a column${plan.options.method === 'first' ? ', the first' : ''}${plan.options.profile === false ? ', no profiles' : ''}`
    : 'none',
  ...(plan.options.fileKinds ? { files: plan.options.fileKinds.join(', ') } : {}),
  limits:
    [
      plan.options.minutes ? `${plan.options.minutes} min` : '',
      plan.options.memoryMb ? `${plan.options.memoryMb} MB` : '',
      plan.options.retries ? `tried again ${plan.options.retries} times` : '',
    ]
      .filter(Boolean)
      .join(', ') || 'none',
  paused: !plan.enabled,
});
export interface PlanBody {
  name: string;
  scope: Scope;
  options: ScanOptions;
  schedule: Schedule | null;
  enabled?: boolean;
}

/** Plans are told of in the journal of their source. */
const PLANS: Kept<PlanRow, ShownPlan> = {
  thing: 'scan plan',
  model: PLAN,
  read: getRow,
  told: (_db, plan) => planForJournal(plan),
  subject: (_db, { sourceId, source, domainId }) => ({ kind: 'source', id: sourceId, name: source, domainId }),
  may: (_db, who, { domainId }) => who.must('source administrator', domainId),
};

export async function addPlan(tx: Db, who: Who, sourceId: string, body: PlanBody): Promise<PlanAnswer> {
  const source = await sourceFacts(tx, who, sourceId);
  who.must('source administrator', source.domainId);
  check(source, body.scope, body.schedule);
  if (body.options.detectorSetId) await mustHaveSet(tx, body.options.detectorSetId);
  const values = {
    ...body,
    sourceId,
    enabled: body.enabled ?? true,
    nextAt: nextAt(body.schedule),
    createdBy: who.id,
  };
  return toAnswer(await create(tx, who, PLANS, values, { action: 'plan made' }), who);
}

export async function changePlan(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: Partial<PlanBody>,
): Promise<PlanAnswer> {
  const { after } = await change(tx, who, PLANS, id, {
    version,
    async values(before) {
      const next = { ...before, ...body };
      if (body.options?.detectorSetId) await mustHaveSet(tx, body.options.detectorSetId);
      // A time that has passed is no fault of a change that leaves it alone.
      const rescheduled = body.schedule !== undefined && canonical(body.schedule) !== canonical(before.schedule);
      const source = await sourceFacts(tx, who, before.sourceId);
      check(source, body.scope, next.enabled && rescheduled ? next.schedule : null);
      // What another scope does not cover is another matter: it is found, and decided, anew.
      const same = canonical(next.scope) === canonical(before.scope);
      return {
        ...body,
        nextAt: next.enabled ? nextAt(next.schedule) : null,
        ...(same ? {} : { leftOut: null, uncovered: [] }),
      };
    },
    action: 'plan changed',
  });
  return toAnswer(after, who);
}

/** Says that a plan leaves these objects out knowingly, or takes that back: they leave the worklist, or return to it. */
export async function leaveOut(tx: Db, who: Who, id: string, paths: readonly string[], out: boolean): Promise<void> {
  const asked = new Set(paths);
  await say(tx, who, {
    action: out ? 'left out of plan' : 'no longer left out of plan',
    async held() {
      const plan = await getRow(tx, who, id);
      const lists = await tx.one<{ leftOut: string[]; uncovered: string[] }>(
        `
          select coalesce(left_out, '[]') as "leftOut", coalesce(uncovered, '[]') as uncovered
          from scan_plan
          where id = $1
          for update`,
        [id],
      );
      if (!lists) throw notFound('The scan plan');
      return { plan, ...lists };
    },
    may: ({ plan }) => who.must('source administrator', plan.domainId),
    async write({ plan, leftOut, uncovered }) {
      // What moves is taken from what waits, or from what was left out: naming something else does nothing.
      const [from, to] = out ? [uncovered, leftOut] : [leftOut, uncovered];
      const moved = from.filter((path) => asked.has(path));
      const [less, more] = [from.filter((path) => !asked.has(path)), [...to, ...moved]];
      const next = out ? { uncovered: less, leftOut: more } : { uncovered: more, leftOut: less };
      // It is no edit of the plan: who has its form open meanwhile is not held up by it, so its version stays.
      await tx.run('update scan_plan set uncovered = $2, left_out = $3 where id = $1', [
        id,
        JSON.stringify(next.uncovered),
        JSON.stringify(next.leftOut),
      ]);
      const after = { plan: plan.name, objects: moved.join(', ') };
      return moved.length > 0 ? [null, after] : [after, after];
    },
    about: ({ plan }) => ({ kind: 'source', id: plan.sourceId, name: plan.source, domainId: plan.domainId }),
  });
}

export async function removePlan(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, PLANS, id, { action: 'plan removed' });
}

export async function runPlan(tx: Db, who: Who, id: string): Promise<RunAnswer> {
  const plan = await getRow(tx, who, id);
  const source = { id: plan.sourceId, name: plan.source, domainId: plan.domainId };
  return askForRun(
    tx,
    who,
    source,
    { planId: id, options: { ...plan.options, scope: plan.scope } },
    { plan: plan.name },
  );
}
