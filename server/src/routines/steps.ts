import type { RoutinePreview, RoutineStep } from '@idrel/contract/routines';
import { hasWords } from '@idrel/core/catalog';
import { Binder, chosenBy, type FinderClient, FROM, readFilter, whereVisible } from '../catalog/index.ts';
import { actionSql, effectsOfStep } from '../curation/index.ts';
import { callable } from '../exchange/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';

/** So many assets a run goes through. */
const MOST = 200_000;
/** Assets that a preview lists of each step. */
const SHOWN = 200;

/** More conditions on what is found, bound where they are told. */
type Among = (binder: Binder) => string;
const ANYWHERE: Among = () => 'true';

/**
 * Ids of all that a filter finds for a person, read as it is written: what a search would rather read into it is not acted upon.
 * @param finder where it is asked often; what has words is asked of the database, since the finder reads slips of the finger into them
 * @throws 422 when it cannot be read, or finds more than a run goes through
 */
export async function foundFor(
  db: Db,
  who: Who,
  filter: string,
  { among = ANYWHERE, finder }: { among?: Among; finder?: FinderClient } = {},
): Promise<readonly string[]> {
  const ids =
    finder && among === ANYWHERE && !hasWords(filter)
      ? await chosenBy(finder, who, { filter }, MOST + 1)
      : await idsBySql(db, who, filter, among);
  if (ids.length > MOST)
    throw invalid(
      `The search finds more than ${MOST.toLocaleString('en')} assets.`,
      'Narrow it, and make several routines of it.',
      [{ field: 'filter', message: 'finds too many' }],
    );
  return ids;
}

async function idsBySql(db: Db, who: Who, filter: string, among: Among): Promise<string[]> {
  const binder = new Binder();
  const where = whereVisible(readFilter(filter), who, binder);
  const rows = await db.rows<{ id: string }>(
    `select a.id from ${FROM} where ${where} and (${among(binder)}) order by s.name, a.key limit ${MOST + 1}`,
    binder.values,
  );
  return rows.map(({ id }) => id);
}

/** Of some assets those that a filter finds. */
export const narrowed = (db: Db, who: Who, filter: string, ids: readonly string[]): Promise<readonly string[]> =>
  ids.length === 0
    ? Promise.resolve([])
    : foundFor(db, who, filter, { among: (binder) => `a.id = any(${binder.add(ids)}::uuid[])` });

const TOLD: Readonly<Record<string, string>> = {
  owner: 'the owners',
  steward: 'the stewards',
  custodian: 'the custodians',
  keeper: 'who keeps the routine',
};

/** A step in words. What an action names may be gone by now: then its kind is told. */
export async function stepInWords(db: Db, step: RoutineStep): Promise<string> {
  switch (step.do) {
    case 'act':
      return actionSql(db, step.action).then(
        ({ told }) => told,
        () => `${step.action.kind}: what it names is not there any more`,
      );
    case 'only':
      return `Only: ${step.filter}`;
    case 'wait':
      return `Wait ${step.days} ${step.days === 1 ? 'day' : 'days'}`;
    case 'scan':
      return 'Scan their sources';
    case 'ticket':
      return `Open a ticket: ${step.title}`;
    case 'call': {
      const hook = await db.one<{ name: string }>('select name from webhook where id = $1', [step.webhookId]);
      return `Call ${hook ? `“${hook.name}”` : 'a webhook that is not there any more'}: ${step.word}`;
    }
    case 'ask':
      return `Ask ${TOLD[step.to]}, ${step.days} ${step.days === 1 ? 'day' : 'days'}: ${step.text}`;
    case 'tell': {
      if (typeof step.to === 'string') return `Write to ${TOLD[step.to]}: ${step.text}`;
      const person = await db.one<{ name: string }>('select name from person where id = $1', [step.to.personId]);
      return `Write to ${person?.name ?? 'somebody who is not there any more'}: ${step.text}`;
    }
  }
}

/** @throws 422 when a step names what is not there, or its filter cannot be read; 403 when the person may not give what it gives */
export async function checkSteps(db: Db, who: Who, steps: readonly RoutineStep[]): Promise<void> {
  for (const [nth, step] of steps.entries()) {
    if (step.do === 'act') await actionSql(db, step.action, who);
    if (step.do === 'only') readFilter(step.filter);
    if (step.do === 'call') await callable(db, who, step.webhookId, `steps.${nth}.webhookId`);
    if (step.do === 'tell' && typeof step.to !== 'string') {
      const there = await db.one('select from person where id = $1 and left_at is null and partner_id is null', [
        step.to.personId,
      ]);
      if (!there)
        throw invalid(`Whom step ${nth + 1} writes to is not there any more.`, 'Choose somebody else.', [
          { field: `steps.${nth}.to`, message: 'is not there' },
        ]);
    }
  }
  if (steps.at(-1)?.do === 'wait')
    throw invalid('Nothing follows after the last wait.', 'Add a step after it, or take it out.', [
      { field: `steps.${steps.length - 1}`, message: 'waits for nothing' },
    ]);
  if (steps.every((step) => step.do === 'only' || step.do === 'wait'))
    throw invalid('The routine does nothing.', 'Add a step that does something to what it finds.', [
      { field: 'steps', message: 'do nothing' },
    ]);
}

/** What a routine would do now, step by step, as everything is now: nothing is written. @param most of so many assets it is told one by one */
export async function previewSteps(
  db: Db,
  who: Who,
  steps: readonly RoutineStep[],
  found: readonly string[],
  most = SHOWN,
): Promise<RoutinePreview> {
  let going = found;
  const told: RoutinePreview['steps'][number][] = [];
  for (const [nth, step] of steps.entries()) {
    if (step.do === 'act') {
      const { told: words, counts, items } = await effectsOfStep<PreviewItem>(db, who, step.action, going, most);
      told.push({ nth, told: words, effects: { ...counts, items }, goesOn: going.length });
      continue;
    }
    if (step.do === 'only') going = await narrowed(db, who, step.filter, going);
    told.push({ nth, told: await stepInWords(db, step), effects: null, goesOn: going.length });
  }
  return {
    found: found.length,
    changes: told.reduce((sum, { effects }) => sum + (effects?.changes ?? 0), 0),
    steps: told,
  };
}
type PreviewItem = NonNullable<RoutinePreview['steps'][number]['effects']>['items'][number];
