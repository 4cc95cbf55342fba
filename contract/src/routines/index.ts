import { EFFECTS, effectFields, ManyAction } from '../curation/index.ts';
import {
  either,
  endpoint,
  extended,
  flag,
  id,
  idParam,
  Joi,
  list,
  moment,
  nullable,
  number,
  type Of,
  oneOf,
  optional,
  picked,
  role,
  shape,
  text,
  withDefault,
} from '../http/index.ts';
import { scheduleBody } from '../scanning/index.ts';
import { assetKind } from '../things/assetKind.ts';

const filter = Joi.string().trim().min(1).max(2000);
/** To whom a step writes: those who answer for each asset, who keeps the routine, or somebody who is named. */
export const TOLD_BY_ROLE = ['owner', 'steward', 'custodian', 'keeper'] as const;
/** Whom a step asks of each asset. */
export const ASKED_BY_ROLE = ['owner', 'steward'] as const;
/** One thing that a routine does with what it found, or waits for, or asks before it goes on. */
export const RoutineStep = either(
  shape({ do: oneOf(['act']), action: ManyAction }),
  shape({ do: oneOf(['only']), filter: filter.description('Goes on with those that this finds by then.') }),
  shape({ do: oneOf(['wait']), days: Joi.number().integer().min(1).max(400) }),
  shape({
    do: oneOf(['tell']),
    to: either(oneOf(TOLD_BY_ROLE), shape({ personId: id })),
    text: Joi.string().trim().min(1).max(2000),
  }),
  shape({
    do: oneOf(['ask']),
    to: oneOf(ASKED_BY_ROLE),
    text: Joi.string().trim().min(1).max(2000),
    days: Joi.number().integer().min(1).max(400),
    silence: oneOf(['go on', 'keep']).description('What it is taken for when nobody has answered by then.'),
  }),
  shape({ do: oneOf(['scan']) }),
  shape({
    do: oneOf(['ticket']),
    title: Joi.string().trim().min(1).max(150).description('The path of each asset is put behind it.'),
    text: withDefault(Joi.string().trim().allow('').max(2000), ''),
  }),
  shape({
    do: oneOf(['call']),
    webhookId: id.description('One that whoever it acts for may have called.'),
    word: Joi.string().trim().min(1).max(100).description('By which the program knows what it is about.'),
  }),
).description(
  'Does one thing to each asset; goes on with some of them only; waits so many days; writes to those who answer for them, one mail each; asks them whether it may go on, and waits for their answers so long; scans their sources; opens a ticket about each, unless one that it opened is open still; or calls a webhook about all of them, 500 in a message.',
);
export type RoutineStep = Of<typeof RoutineStep>;
const steps = list(RoutineStep).min(1).max(12);

/** What can begin a routine: a scan, or what a program pushes, brought it. */
export const HAPPENINGS = ['new', 'changed', 'gone', 'found', 'failed'] as const;
export type Happening = (typeof HAPPENINGS)[number];
export const RoutineStarts = either(
  shape({ on: oneOf(['schedule']), schedule: scheduleBody }),
  shape({
    on: oneOf(['happening']),
    what: list(oneOf(HAPPENINGS))
      .min(1)
      .unique()
      .description(
        'New assets, changes of their structure, assets that are gone, new findings, or the source of an asset could not be read.',
      ),
  }),
).description('When it starts by itself.');
export type RoutineStarts = Of<typeof RoutineStarts>;
export const RoutineGuard = shape({
  most: nullable(Joi.number().integer().min(1).max(200_000)).description('More changes in a run than this: it asks.'),
  times: nullable(Joi.number().integer().min(1).max(100)).description(
    'So many times as many as ever of late: it asks.',
  ),
});
export type RoutineGuard = Of<typeof RoutineGuard>;

export const RoutineBody = shape({
  name: Joi.string().trim().min(1).max(120),
  filter: filter.description('Filter language: which assets the routine finds'),
  steps,
  starts: withDefault(nullable(RoutineStarts), null),
  guard: withDefault(RoutineGuard, { most: null, times: 3 }),
  enabled: withDefault(Joi.boolean(), true),
});
export type RoutineBody = Of<typeof RoutineBody>;

export const ROUTINE_RUN_STATES = [
  'asks',
  'running',
  'waiting',
  'done',
  'skipped',
  'failed',
  'undoing',
  'undone',
] as const;
const RunBrief = shape({
  id: text,
  at: moment,
  state: oneOf(ROUTINE_RUN_STATES).description(
    'asks: it would change far more than usual, and waits for a person; waiting: between two steps.',
  ),
  why: oneOf(['asked', 'schedule', ...HAPPENINGS]),
  found: number,
  changed: number,
});
export const RoutineAnswer = extended(RoutineBody, {
  id: text,
  keeper: nullable(shape({ id: text, name: text })).description('Who answers for it: it acts with their rights.'),
  stands: oneOf(['by hand', 'acts', 'paused', 'unkept', 'not agreed']).description(
    'Whether it acts by itself; and if not, why: it is only run by hand, it is switched off, who kept it has left, or the new keeper has not agreed yet.',
  ),
  nextAt: nullable(moment),
  version: number,
  mayChange: flag,
  mine: flag.description('Kept by you.'),
  lastRun: nullable(RunBrief),
  recent: shape({ runs: number, changed: number, failed: number }).description('Of the last 30 days.'),
  asks: nullable(text).description('The run that waits for a person.'),
});
export type RoutineAnswer = Of<typeof RoutineAnswer>;

const decided = nullable(shape({ by: text, at: moment })).description('Who decided it by hand, and when.');
const effects = {
  ...effectFields,
  decided: number.description('Somebody decided by hand: a routine leaves it so.'),
  items: list(
    shape({
      id: text,
      kind: assetKind,
      path: text,
      source: text,
      effect: oneOf([...EFFECTS, 'decided']),
      before: nullable(text),
      decided,
    }),
  ).description('The first 200, those that would change first.'),
};
/** What a routine would do now, for the person who asks. */
export const RoutinePreview = shape({
  found: number,
  changes: number.description('Of all steps together.'),
  steps: list(
    shape({
      nth: number,
      told: text.description('The step in words.'),
      effects: nullable(shape(effects)).description('Of what does something to assets.'),
      goesOn: number.description('With so many assets it goes on, as they are now.'),
    }),
  ),
});
export type RoutinePreview = Of<typeof RoutinePreview>;

/** What a routine would have done, had it run each day. */
export const RoutineReplay = shape({
  step: nullable(text).description('The step that is looked at, in words: the first that changes assets.'),
  days: list(
    shape({
      day: text,
      found: number,
      changed: number.description('What it would have changed on that day, and not on one before.'),
    }),
  ).description('The last 30, in their order; days are those of UTC.'),
  knownFrom: moment.description('From when on classes, levels and domains are known as they were.'),
  asNow: list(text).description('What the search asks for that is taken as it is now, since it is not kept as it was.'),
});
export type RoutineReplay = Of<typeof RoutineReplay>;

export const RoutineRunAnswer = extended(RunBrief, {
  routineId: text,
  person: nullable(text).description('With whose rights.'),
  cause: nullable(shape({ runId: text, source: text })).description('The scan that began it.'),
  filter: text,
  steps: list(
    shape({
      told: text,
      state: oneOf(['done', 'now', 'ahead']),
      found: number,
      changed: number,
    }),
  ),
  same: number,
  refused: number,
  unsuited: number,
  decided: number,
  passedOver: number.description('Changed by somebody meanwhile.'),
  told: number.description('People who were written to.'),
  tickets: number.description('Tickets that were opened.'),
  calls: number.description('Messages that webhooks were to be sent.'),
  dueAt: nullable(moment),
  endedAt: nullable(moment),
  guard: nullable(shape({ changes: number, most: number, usual: flag })).description(
    'Why it asks: it would change so many, more than so many; usual: that is what it did of late, and no limit of its own.',
  ),
  problem: nullable(text),
  undoneAt: nullable(moment),
  restored: nullable(number),
  undoable: flag,
  mayGoOn: flag,
});
export type RoutineRunAnswer = Of<typeof RoutineRunAnswer>;
export const RunAsset = shape({
  id: text,
  kind: assetKind,
  path: text,
  source: text,
  step: number,
  effect: oneOf(['changes', 'refused', 'unsuited', 'decided', 'passed over']),
  before: nullable(text),
  decided,
  undone: flag,
});
export type RunAsset = Of<typeof RunAsset>;

const rights = { words: 'editor; and what each of its steps asks for, in the domains of the assets' };
const keepers = { words: 'who keeps the routine; administrator' };

export const routineEndpoints = {
  list: endpoint({
    id: 'routines',
    method: 'get',
    path: '/routines',
    area: 'routines',
    summary: 'All routines',
    may: 'signed in',
    answer: list(RoutineAnswer),
    answers: 'Each with who keeps it, when it runs next, and its last run.',
  }),
  create: endpoint({
    id: 'createRoutine',
    method: 'post',
    path: '/routines',
    area: 'routines',
    summary: 'Make a routine; it acts with your rights, and never more',
    may: role('editor', 'any domain'),
    body: RoutineBody,
    problems: ['name-taken'],
    answer: RoutineAnswer,
    answers: 'The routine.',
  }),
  change: endpoint({
    id: 'changeRoutine',
    method: 'put',
    path: '/routines/:id',
    area: 'routines',
    summary: 'Change a routine; whoever does keeps it from then on',
    may: keepers,
    params: idParam,
    body: RoutineBody,
    versioned: true,
    problems: ['name-taken'],
    answer: RoutineAnswer,
    answers: 'The routine as it is now.',
  }),
  take: endpoint({
    id: 'takeRoutine',
    method: 'post',
    path: '/routines/:id/take',
    area: 'routines',
    summary: 'Answer for a routine: it acts with your rights from then on',
    may: { words: 'who keeps it by now; anybody who may edit, where nobody does; administrator' },
    params: idParam,
    answer: RoutineAnswer,
    answers: 'The routine.',
  }),
  remove: endpoint({
    id: 'removeRoutine',
    method: 'delete',
    path: '/routines/:id',
    area: 'routines',
    summary: 'Remove a routine; what it changed stays',
    may: keepers,
    params: idParam,
    answers: 'Nothing.',
  }),
  bringBack: endpoint({
    id: 'bringBackRoutine',
    method: 'post',
    path: '/routines/:id/bring-back',
    area: 'routines',
    summary: 'Bring a removed routine back',
    may: keepers,
    params: idParam,
    problems: ['name-taken'],
    answer: RoutineAnswer,
    answers: 'The routine.',
  }),
  preview: endpoint({
    id: 'previewRoutine',
    method: 'post',
    path: '/routines/preview',
    area: 'routines',
    summary: 'What a routine would do now',
    may: 'signed in',
    body: shape({ filter, steps }),
    answer: RoutinePreview,
    answers:
      'How many assets it finds; and for each step how many would change, are as they should be, may not be changed, were decided by hand, and the first 200.',
  }),
  replay: endpoint({
    id: 'replayRoutine',
    method: 'post',
    path: '/routines/replay',
    area: 'routines',
    summary: 'What a routine would have done on each of the last 30 days',
    may: 'signed in',
    body: shape({ filter, steps }),
    answer: RoutineReplay,
    answers: 'How many assets it would have found each day, and changed for the first time.',
  }),
  run: endpoint({
    id: 'runRoutine',
    method: 'post',
    path: '/routines/:id/runs',
    area: 'routines',
    summary: 'Run a routine now, with your own rights; it goes on by itself',
    may: rights,
    params: idParam,
    body: shape({
      changes: Joi.number()
        .integer()
        .min(0)
        .max(100_000_000)
        .description('How many changes you saw in the preview: when it would be another number, nothing is done'),
    }),
    problems: ['finds-other', 'begun-already'],
    answer: RoutineRunAnswer,
    answers: 'The run, under way.',
  }),
  runs: endpoint({
    id: 'routineRuns',
    method: 'get',
    path: '/routines/:id/runs',
    area: 'routines',
    summary: 'Runs of a routine',
    may: 'signed in',
    params: idParam,
    answer: list(picked(RoutineRunAnswer, ['id', 'at', 'state', 'why', 'found', 'changed', 'person', 'restored'])),
    answers: 'The last 90, newest first.',
  }),
  oneRun: endpoint({
    id: 'routineRun',
    method: 'get',
    path: '/routine-runs/:id',
    area: 'routines',
    summary: 'A run of a routine, and how far it is',
    may: 'signed in',
    params: idParam,
    answer: RoutineRunAnswer,
    answers: 'The run with its steps.',
  }),
  runAssets: endpoint({
    id: 'routineRunAssets',
    method: 'get',
    path: '/routine-runs/:id/assets',
    area: 'routines',
    summary: 'What a run did, asset by asset',
    may: 'signed in',
    params: idParam,
    query: shape({
      effect: optional(oneOf(['changes', 'refused', 'unsuited', 'decided', 'passed over'])),
      offset: withDefault(Joi.number().integer().min(0).max(1_000_000), 0),
      limit: withDefault(Joi.number().integer().min(1).max(200), 100),
    }),
    answer: shape({ items: list(RunAsset), total: number }),
    answers: 'Of what you may see: what was changed, and what was left and why.',
  }),
  goOn: endpoint({
    id: 'goOnRoutineRun',
    method: 'post',
    path: '/routine-runs/:id/go-on',
    area: 'routines',
    summary: 'Let a run that asks go on, or skip it',
    may: keepers,
    params: idParam,
    body: shape({ skip: Joi.boolean() }),
    problems: ['begun-already'],
    answer: RoutineRunAnswer,
    answers: 'The run.',
  }),
  stop: endpoint({
    id: 'stopRoutineRun',
    method: 'post',
    path: '/routine-runs/:id/stop',
    area: 'routines',
    summary: 'Stop a run that is under way or waits between steps; what is done stays done',
    may: { words: 'who runs it; who keeps the routine; administrator' },
    params: idParam,
    answer: RoutineRunAnswer,
    answers: 'The run.',
  }),
  questions: endpoint({
    id: 'routineQuestions',
    method: 'get',
    path: '/routine-runs/:id/questions',
    area: 'routines',
    summary: 'What a run asks you, asset by asset',
    may: 'signed in',
    params: idParam,
    answer: shape({
      text,
      until: nullable(moment),
      assets: list(shape({ id: text, kind: assetKind, path: text, source: text })).description('The first 500.'),
      total: number,
    }),
    answers: 'Of the assets that you answer for, those of which nobody has answered yet.',
  }),
  answer: endpoint({
    id: 'answerRoutine',
    method: 'post',
    path: '/routine-runs/:id/answers',
    area: 'routines',
    summary: 'Answer what a run asks of assets: keep them as they are, or let it go on',
    may: { words: 'who answers for each of them' },
    params: idParam,
    body: shape({ assetIds: list(id).min(1).max(500).unique(), answer: oneOf(['keep', 'go on']) }),
    problems: ['begun-already'],
    answer: shape({ answered: number }),
    answers: 'How many that were. With the last answer the run goes on; what is kept is not asked of again for a year.',
  }),
  undo: endpoint({
    id: 'undoRoutineRun',
    method: 'post',
    path: '/routine-runs/:id/undo',
    area: 'routines',
    summary: 'Take a run back, whole or for one asset',
    may: rights,
    params: idParam,
    body: shape({ assetId: nullable(id).description('Null: all that it changed') }),
    problems: ['undone', 'not-undoable'],
    answer: RoutineRunAnswer,
    answers:
      'The run. What somebody changed again since is left as they made it; no routine does again what was taken back.',
  }),
};
