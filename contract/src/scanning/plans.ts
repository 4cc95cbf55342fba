import type { Schedule, Scope } from '@idrel/core/scanning';
import {
  either,
  endpoint,
  flag,
  id,
  idParam,
  Joi,
  like,
  list,
  moment,
  nullable,
  number,
  type Of,
  oneOf,
  optional,
  role,
  SOURCE_PROBLEMS,
  shape,
  text,
  withDefault,
} from '../http/index.ts';
import { RunAnswer } from './runs.ts';

export type { Schedule, Scope };

const time = Joi.string().pattern(/^([01]\d|2[0-3]):[0-5]\d$/, 'a time like 06:30');
/** Kinds of files whose columns are read. */
export const FILE_KINDS = ['csv', 'ndjson', 'json', 'parquet', 'avro', 'arrow', 'xlsx', 'text'] as const;
export type FileKind = (typeof FILE_KINDS)[number];

const weekday = oneOf([1, 2, 3, 4, 5, 6, 7]);
const days = list(weekday).min(1).unique();
const paths = list(Joi.string().max(2000)).max(5000).unique();
const patterns = list(Joi.string().trim().min(1).max(300)).max(100).unique();

export const scopeBody = like<Scope>()(
  shape({
    cover: oneOf(['everything', 'chosen']),
    chosen: withDefault(paths, []),
    include: withDefault(patterns, []),
    exclude: withDefault(patterns, []),
  }),
);
export const scheduleBody = like<Schedule>()(
  shape({
    rhythm: either(
      shape({ on: oneOf(['once']), date: Joi.string().pattern(/^\d{4}-\d{2}-\d{2}$/, 'a date like 2026-05-31') }),
      shape({ on: oneOf(['daily', 'weekdays', 'weekends']) }),
      shape({ on: oneOf(['days']), days: days }),
      shape({ on: oneOf(['date']), day: Joi.number().integer().min(1).max(31) }),
      shape({ on: oneOf(['weekday']), nth: oneOf([1, 2, 3, 4, -1]), weekday: weekday }),
    ),
    time: time,
    timeZone: Joi.string().max(60),
    blackouts: optional(list(shape({ from: time, to: time, days: optional(days) })).max(10)),
  }),
);
export const sampledRows = Joi.number().integer().min(10).max(10_000);
export const sampleMethod = oneOf(['random', 'first']);
export const fileKindsBody = withDefault(nullable(list(oneOf(FILE_KINDS)).min(1).unique()), null);
/** How a run reads. */
export const ScanOptions = shape({
  sample: withDefault(Joi.boolean(), true),
  rows: withDefault(sampledRows, 500),
  method: withDefault(sampleMethod, 'random').description(
    'Which rows are sampled: random ones, or the first that the source gives',
  ),
  detectorSetId: withDefault(nullable(id), null).description('The detectors that look; null: all'),
  profile: withDefault(Joi.boolean(), true),
  onlyChanged: withDefault(Joi.boolean(), false),
  minutes: withDefault(nullable(Joi.number().integer().min(1).max(1440)), null).description(
    'A run that takes longer is ended',
  ),
  retries: withDefault(Joi.number().integer().min(0).max(5), 0).description(
    'How often a failed run is tried again, after 1, 2, 4 … minutes',
  ),
  memoryMb: withDefault(nullable(Joi.number().integer().min(64).max(8192)), null).description(
    'Memory for reading files, in MB',
  ),
  fileKinds: fileKindsBody.description('Kinds of files that are read; null: all'),
});
export type ScanOptions = Of<typeof ScanOptions>;

export const PlanAnswer = shape({
  id: text,
  sourceId: text,
  source: text,
  name: text,
  scope: scopeBody,
  scopeSentence: text,
  options: ScanOptions,
  schedule: nullable(scheduleBody),
  scheduleSentence: nullable(text),
  enabled: flag,
  next: list(text).description('The next five times, in UTC.'),
  version: number,
  lastRun: nullable(shape({ id: text, state: text, at: moment })),
  mayEdit: flag,
});
export type PlanAnswer = Of<typeof PlanAnswer>;
/** An object of a source that can be chosen; `path` is the one that scopes name. */
export const OutlineItem = shape({ path: text, kind: text });
export type OutlineItem = Of<typeof OutlineItem>;
export const PlanPreview = shape({
  scopeSentence: text,
  covered: nullable(number).description('Objects that are there now; null when the source could not be asked.'),
  all: nullable(number),
  scheduleSentence: nullable(text),
  next: list(text),
});
export type PlanPreview = Of<typeof PlanPreview>;

const name = Joi.string().trim().min(1).max(120);
const body = {
  scope: optional(scopeBody),
  options: optional(ScanOptions),
  schedule: optional(nullable(scheduleBody)),
  enabled: optional(Joi.boolean()),
};
const rights = role('source administrator', 'its domain');

export const planEndpoints = {
  list: endpoint({
    id: 'plans',
    method: 'get',
    path: '/sources/:id/plans',
    area: 'scanning',
    summary: 'Scan plans of a source',
    may: 'signed in',
    params: idParam,
    answer: list(PlanAnswer),
    answers: 'Plans with their next times.',
  }),
  get: endpoint({
    id: 'plan',
    method: 'get',
    path: '/plans/:id',
    area: 'scanning',
    summary: 'One scan plan',
    may: 'signed in',
    params: idParam,
    answer: PlanAnswer,
    answers: 'The plan.',
  }),
  add: endpoint({
    id: 'addPlan',
    method: 'post',
    path: '/sources/:id/plans',
    area: 'scanning',
    summary: 'Make a scan plan',
    may: rights,
    params: idParam,
    body: shape({
      ...body,
      name: name,
      scope: scopeBody,
      options: withDefault(ScanOptions, {
        sample: true,
        rows: 500,
        method: 'random',
        detectorSetId: null,
        profile: true,
        onlyChanged: false,
        minutes: null,
        retries: 0,
        memoryMb: null,
        fileKinds: null,
      }),
      schedule: withDefault(nullable(scheduleBody), null),
    }),
    problems: ['name-taken'],
    answer: PlanAnswer,
    answers: 'The plan.',
  }),
  change: endpoint({
    id: 'changePlan',
    method: 'patch',
    path: '/plans/:id',
    area: 'scanning',
    summary: 'Change a scan plan',
    may: rights,
    params: idParam,
    body: shape({ ...body, name: optional(name) }).min(1),
    versioned: true,
    problems: ['name-taken'],
    answer: PlanAnswer,
    answers: 'The plan as it is now.',
  }),
  leaveOut: endpoint({
    id: 'leaveOutOfPlan',
    method: 'put',
    path: '/plans/:id/left-out',
    area: 'scanning',
    summary: 'Leave new objects that a plan does not cover out of it, or put them back on the worklist',
    may: rights,
    params: idParam,
    body: shape({ paths: paths.min(1), out: Joi.boolean() }),
    answers: 'Nothing.',
  }),
  remove: endpoint({
    id: 'removePlan',
    method: 'delete',
    path: '/plans/:id',
    area: 'scanning',
    summary: 'Remove a scan plan; its runs stay',
    may: rights,
    params: idParam,
    answers: 'Nothing.',
  }),
  run: endpoint({
    id: 'runPlan',
    method: 'post',
    path: '/plans/:id/runs',
    area: 'scanning',
    summary: 'Run a plan now',
    may: rights,
    params: idParam,
    problems: ['run-going'],
    answer: RunAnswer,
    answers: 'The run, waiting.',
  }),
  preview: endpoint({
    id: 'previewPlan',
    method: 'post',
    path: '/sources/:id/plan-preview',
    area: 'scanning',
    summary: 'What a plan would cover, and when it would run',
    may: rights,
    params: idParam,
    body: shape({ scope: scopeBody, schedule: withDefault(nullable(scheduleBody), null) }),
    problems: [...SOURCE_PROBLEMS],
    answer: PlanPreview,
    answers: 'Sentences, counts from the live source, and the next five times.',
  }),
  outline: endpoint({
    id: 'sourceOutline',
    method: 'get',
    path: '/sources/:id/outline',
    area: 'scanning',
    summary: 'What the source holds now, by name',
    may: rights,
    params: idParam,
    problems: [...SOURCE_PROBLEMS],
    answer: list(OutlineItem),
    answers: 'Paths and kinds, read live from the source; at most 20,000.',
  }),
};
