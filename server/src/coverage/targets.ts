import { MEASURES, type Measure, type Target, type TargetBody } from '@idrel/contract/coverage';
import { both, where } from '@idrel/core/catalog';
import { aimOf, courseOf } from '@idrel/core/coverage';
import { change, create, type Kept, remove } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid, notFound } from '../platform/problems.ts';
import { changesOf, daysKept } from './course.ts';
import { linesOf } from './lines.ts';
import { TARGET, type TargetRow } from './models.ts';

/** Of a target's course at most so many days are looked at: it may have begun long ago. */
const LONGEST = 3650;

interface Plain extends Omit<TargetBody, 'since'> {
  readonly id: string;
  readonly domain: string;
  readonly since: string;
  readonly madeBy: string | null;
  readonly version: number;
}

const SELECT = `
  select
    t.id, t.domain_id as "domainId", d.name as domain, t.measure, t.share, to_char(t.by_day, 'YYYY-MM-DD') as "byDay",
    to_char(t.since, 'YYYY-MM-DD') as since, p.name as "madeBy", t.version
  from coverage_target t
  join domain d on d.id = t.domain_id
  left join person p on p.id = t.made_by`;

/** How targets stand, by the figures that were kept. */
async function stood(db: Db, who: Who, targets: readonly Plain[]): Promise<Target[]> {
  const { days } = await daysKept(db, LONGEST);
  const every = await daysKept(db, 40);
  // The last 40 days one by one, before them what a long course has.
  const looked = [...new Set([...days.filter((day) => day < (every.days[0] ?? '')), ...every.days])];
  const { countsFor } = await linesOf(db, 'domain', []);
  const courses = new Map<string, ReturnType<typeof courseOf>>();
  for (const measure of looked.length === 0 ? [] : new Set(targets.map((target) => target.measure))) {
    const changes = await changesOf(db, 'domain', measure, {
      domains: who.domainsAs('reader'),
      days: looked,
    });
    courses.set(
      measure,
      courseOf(
        changes.flatMap((one) => countsFor(one.key).map((key) => ({ ...one, key }))),
        looked,
        2,
      ),
    );
  }
  return targets.map((target) => {
    const own = courses.get(target.measure)?.get(target.domainId) ?? [];
    const course = own.map(([assets = 0, met = 0], nth) => ({
      day: looked[nth] as string,
      share: assets === 0 ? 0 : met / assets,
    }));
    const lack = `not ${MEASURES.find(({ key }) => key === target.measure)?.filter ?? ''}`;
    return {
      ...target,
      ...aimOf(course, target),
      assets: own.at(-1)?.[0] ?? 0,
      filter: both(where('domain', target.domain), lack),
      mayChange: who.is('steward', target.domainId),
    };
  });
}

const TARGETS: Kept<TargetRow, Target> = {
  thing: 'coverage target',
  model: TARGET,
  async read(db, who, id) {
    const row = await db.one<Plain>(`${SELECT} where t.id = $1`, [id]);
    if (!row || !who.is('reader', row.domainId)) throw notFound('The target');
    return (await stood(db, who, [row]))[0] as Target;
  },
  told: (_db, { domain, measure, share, byDay }) => ({ domain, measure, share, 'by the day': byDay }),
  subject: (_db, { domainId }) => ({ domainId }),
  name: ({ domain, measure }) => `${domain}: ${MEASURES.find(({ key }) => key === measure)?.label ?? measure}`,
  may: (_db, who, { domainId }) => who.must('steward', domainId),
};

/** Targets of the domains in which somebody may read, the soonest first. */
export async function listTargets(
  db: Db,
  who: Who,
): Promise<{ measures: readonly Measure[]; targets: Target[]; mayAdd: { id: string; name: string }[] }> {
  const rows = await db.rows<Plain>(
    `${SELECT} where t.domain_id = any($1::uuid[]) order by t.by_day, lower(d.name), t.measure`,
    [who.domainsAs('reader')],
  );
  const mayAdd = await db.rows<{ id: string; name: string }>(
    'select id, name from domain where id = any($1::uuid[]) order by lower(name)',
    [who.domainsAs('steward')],
  );
  return { measures: MEASURES, targets: await stood(db, who, rows), mayAdd };
}

/** Whether there is such a day: the calendar has no 30 February. */
function isDay(text: string): boolean {
  const at = new Date(`${text}T00:00:00Z`);
  return !Number.isNaN(at.getTime()) && at.toISOString().slice(0, 10) === text;
}

/** @throws 422 where its day is none, or over; 404 where its domain is none that they may read */
async function check(db: Db, who: Who, body: TargetBody, before?: Target): Promise<void> {
  if (!who.is('reader', body.domainId)) throw notFound('The domain');
  who.must('steward', body.domainId);
  const today = (await db.one<{ day: string }>("select to_char(current_date, 'YYYY-MM-DD') as day"))?.day ?? '';
  const wrong = (field: 'byDay' | 'since', detail: string, mend: string) =>
    invalid(detail, mend, [{ field, message: detail }]);
  for (const field of ['byDay', 'since'] as const) {
    const day = body[field];
    if (day !== undefined && !isDay(day)) throw wrong(field, `${day} is no day.`, 'Choose a day of the calendar.');
  }
  // One that is over may stay as it is, with its share changed.
  if (body.byDay !== before?.byDay && body.byDay <= today)
    throw wrong('byDay', 'The day of a target lies ahead.', 'Choose a later day.');
  if (body.since !== undefined && body.since > today)
    throw wrong('since', 'A target has begun by today.', 'Choose today or an earlier day.');
  const same = await db.one<{ id: string }>(
    'select id from coverage_target where domain_id = $1 and measure = $2 and id is distinct from $3::uuid',
    [body.domainId, body.measure, before?.id ?? null],
  );
  if (same)
    throw invalid('The domain has a target for this measure already.', 'Change that one, or choose another measure.', [
      { field: 'measure', message: 'has a target already' },
    ]);
}

export async function addTarget(tx: Db, who: Who, body: TargetBody): Promise<Target> {
  await check(tx, who, body);
  return create(tx, who, TARGETS, { ...body, madeBy: who.id });
}

export async function changeTarget(tx: Db, who: Who, id: string, version: number, body: TargetBody): Promise<Target> {
  await check(tx, who, body, await TARGETS.read(tx, who, id));
  return (await change(tx, who, TARGETS, id, { version, values: { ...body, madeBy: who.id } })).after;
}

export const removeTarget = async (tx: Db, who: Who, id: string): Promise<void> => {
  await remove(tx, who, TARGETS, id);
};
