import { effectFields, ManyAction } from '../curation/index.ts';
import {
  endpoint,
  extended,
  flag,
  idParam,
  Joi,
  list,
  moment,
  nullable,
  number,
  type Of,
  role,
  shape,
  text,
} from '../http/index.ts';

/** What a routine does to each asset that it finds. */
export const RoutineAction = ManyAction;
export type RoutineAction = ManyAction;
const filter = Joi.string().trim().min(1).max(2000).description('Filter language: which assets the routine finds');
export const RoutineBody = shape({ name: Joi.string().trim().min(1).max(120), filter, action: RoutineAction });
export type RoutineBody = Of<typeof RoutineBody>;
export const RoutineAnswer = extended(RoutineBody, {
  id: text,
  madeBy: nullable(text),
  version: number,
  mayChange: flag,
  lastRun: nullable(shape({ at: moment, changed: number })),
});
export type RoutineAnswer = Of<typeof RoutineAnswer>;
/** What a routine would do now, for the person who asks. */
export const RoutinePreview = shape(effectFields);
export type RoutinePreview = Of<typeof RoutinePreview>;
export const RoutineRunAnswer = shape({
  id: text,
  at: moment,
  person: nullable(text),
  filter: text,
  action: RoutineAction,
  found: number,
  changed: number,
  same: number,
  refused: number,
  undoneAt: nullable(moment),
  restored: nullable(number),
});
export type RoutineRunAnswer = Of<typeof RoutineRunAnswer>;

const rights = { words: 'editor; steward to set the standing' };

export const routineEndpoints = {
  list: endpoint({
    id: 'routines',
    method: 'get',
    path: '/routines',
    area: 'routines',
    summary: 'All routines',
    may: 'signed in',
    answer: list(RoutineAnswer),
    answers: 'Each with who made it and its last run.',
  }),
  create: endpoint({
    id: 'createRoutine',
    method: 'post',
    path: '/routines',
    area: 'routines',
    summary: 'Make a routine',
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
    summary: 'Change a routine',
    may: { words: 'who made it; administrator' },
    params: idParam,
    body: RoutineBody,
    versioned: true,
    problems: ['name-taken'],
    answer: RoutineAnswer,
    answers: 'The routine as it is now.',
  }),
  remove: endpoint({
    id: 'removeRoutine',
    method: 'delete',
    path: '/routines/:id',
    area: 'routines',
    summary: 'Remove a routine; what it changed stays',
    may: { words: 'who made it; administrator' },
    params: idParam,
    answers: 'Nothing.',
  }),
  bringBack: endpoint({
    id: 'bringBackRoutine',
    method: 'post',
    path: '/routines/:id/bring-back',
    area: 'routines',
    summary: 'Bring a removed routine back',
    may: { words: 'who made it; administrator' },
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
    body: shape({ filter, action: RoutineAction }),
    answer: RoutinePreview,
    answers: 'How many assets it finds, would change, finds as they should be, may not change; and the first 200.',
  }),
  run: endpoint({
    id: 'runRoutine',
    method: 'post',
    path: '/routines/:id/runs',
    area: 'routines',
    summary: 'Run a routine now',
    may: rights,
    params: idParam,
    body: shape({
      changes: Joi.number()
        .integer()
        .min(0)
        .description('How many changes you saw in the preview: when it would be another number, nothing is done'),
    }),
    problems: ['finds-other'],
    answer: RoutineRunAnswer,
    answers: 'The run: what it found, changed, left as it was, might not change.',
  }),
  runs: endpoint({
    id: 'routineRuns',
    method: 'get',
    path: '/routines/:id/runs',
    area: 'routines',
    summary: 'Runs of a routine',
    may: 'signed in',
    params: idParam,
    answer: list(RoutineRunAnswer),
    answers: 'The last 50, newest first.',
  }),
  undo: endpoint({
    id: 'undoRoutineRun',
    method: 'post',
    path: '/routine-runs/:id/undo',
    area: 'routines',
    summary: 'Take a run back',
    may: rights,
    params: idParam,
    problems: ['undone'],
    answer: RoutineRunAnswer,
    answers: 'The run. What somebody changed again since is left as they made it.',
  }),
};
