import type { PlanPreview, Schedule, Scope } from '@idrel/contract/scanning';
import { KINDS } from '@idrel/contract/sources';
import { describeSchedule, describeScope, scopeCover } from '@idrel/core/scanning';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { ApiProblem } from '../platform/problems.ts';
import { sourceFacts } from '../sources/index.ts';
import { type AskingContext, outline } from './askSource.ts';
import { check } from './plans.ts';
import { isoTimes } from './planTimes.ts';

const NOUNS: Record<string, string> = { folder: 'files and folders' };

/** What a plan would cover, and when it would run, before it is saved. */
export async function previewPlan(
  db: Db,
  asking: AskingContext,
  who: Who,
  sourceId: string,
  body: { scope: Scope; schedule: Schedule | null },
): Promise<PlanPreview> {
  const source = await sourceFacts(db, who, sourceId);
  who.must('source administrator', source.domainId);
  if (body.scope.cover === 'everything' || body.scope.chosen.length + body.scope.include.length > 0)
    check(source, body.scope, body.schedule);
  const items = await outline(db, asking, who, sourceId).catch((error: unknown) => {
    if (error instanceof ApiProblem && error.code === 'source-unreachable') return null;
    throw error;
  });
  const covers = scopeCover(body.scope, KINDS[source.kind].separator);
  const covered = items?.filter((item) => covers(item.path)).length ?? null;
  const known =
    items && covered !== null
      ? { chosen: covered, all: items.length, noun: NOUNS[source.kind] ?? 'schemas, tables and views' }
      : undefined;
  return {
    scopeSentence: describeScope(body.scope, known),
    covered,
    all: items?.length ?? null,
    scheduleSentence: body.schedule ? describeSchedule(body.schedule) : null,
    next: isoTimes(body.schedule, Date.now()),
  };
}
