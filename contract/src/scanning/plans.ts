import type { Schedule, Scope } from '@idrel/core/scanning';
import { endpoint, id, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

export type { Schedule, Scope };

/** How a run reads. */
export interface ScanOptions {
  /** Whether values are sampled and recognised. */
  readonly sample: boolean;
  /** Values read per column. */
  readonly rows: number;
  /** Whether profiles are worked out of what is sampled. */
  readonly profile: boolean;
  /** The detectors that look; null: all. */
  readonly detectorSetId: string | null;
  /** Which rows are read: random ones, or the first that the source gives (faster, and less telling). */
  readonly method: 'random' | 'first';
  /** A run that takes longer is ended; null: no limit. */
  readonly minutes: number | null;
  /** How often a failed run is tried again, after 1, 2, 4 … minutes. */
  readonly retries: number;
  /** Memory for reading files, in MB; null: as the machine that reads is set. */
  readonly memoryMb: number | null;
  /** Kinds of files that are read; null: all. */
  readonly fileKinds: readonly FileKind[] | null;
  /** Leave out what has not changed since it was last read, where the source can tell. */
  readonly onlyChanged: boolean;
}
export interface PlanAnswer {
  readonly id: string;
  readonly sourceId: string;
  readonly source: string;
  readonly name: string;
  readonly scope: Scope;
  readonly scopeSentence: string;
  readonly options: ScanOptions;
  readonly schedule: Schedule | null;
  readonly scheduleSentence: string | null;
  readonly enabled: boolean;
  /** The next five times, in UTC. */
  readonly next: readonly string[];
  readonly version: number;
  readonly lastRun: { readonly id: string; readonly state: string; readonly at: string } | null;
  readonly mayEdit: boolean;
}
/** An object of a source that can be chosen; `path` is the one that scopes name. */
export interface OutlineItem {
  readonly path: string;
  readonly kind: string;
}
export interface PlanPreview {
  readonly scopeSentence: string;
  /** Objects that are there now; null when the source could not be asked. */
  readonly covered: number | null;
  readonly all: number | null;
  readonly scheduleSentence: string | null;
  readonly next: readonly string[];
}

const time = Joi.string().pattern(/^([01]\d|2[0-3]):[0-5]\d$/, 'a time like 06:30');
/** Kinds of files whose columns are read. */
export const FILE_KINDS = ['csv', 'ndjson', 'json', 'parquet', 'avro', 'arrow', 'xlsx', 'text'] as const;
export type FileKind = (typeof FILE_KINDS)[number];

const weekday = Joi.number().integer().min(1).max(7);
const days = Joi.array().items(weekday).min(1).unique();
const paths = Joi.array().items(Joi.string().max(2000)).max(5000).unique();
const patterns = Joi.array().items(Joi.string().trim().min(1).max(300)).max(100).unique();

export const scopeBody = Joi.object({
  cover: Joi.string().valid('everything', 'chosen').required(),
  chosen: paths.default([]),
  include: patterns.default([]),
  exclude: patterns.default([]),
});
export const scheduleBody = Joi.object({
  rhythm: Joi.alternatives(
    Joi.object({
      on: Joi.valid('once').required(),
      date: Joi.string()
        .pattern(/^\d{4}-\d{2}-\d{2}$/, 'a date like 2026-05-31')
        .required(),
    }),
    Joi.object({ on: Joi.valid('daily', 'weekdays', 'weekends').required() }),
    Joi.object({ on: Joi.valid('days').required(), days: days.required() }),
    Joi.object({ on: Joi.valid('date').required(), day: Joi.number().integer().min(1).max(31).required() }),
    Joi.object({
      on: Joi.valid('weekday').required(),
      nth: Joi.valid(1, 2, 3, 4, -1).required(),
      weekday: weekday.required(),
    }),
  ).required(),
  time: time.required(),
  timeZone: Joi.string().max(60).required(),
  blackouts: Joi.array()
    .items(Joi.object({ from: time.required(), to: time.required(), days }))
    .max(10),
});
export const sampledRows = Joi.number().integer().min(10).max(10_000);
export const sampleMethod = Joi.string().valid('random', 'first');
export const fileKindsBody = Joi.array()
  .items(Joi.string().valid(...FILE_KINDS))
  .min(1)
  .unique()
  .allow(null)
  .default(null);
const options = Joi.object({
  sample: Joi.boolean().default(true),
  rows: sampledRows.default(500),
  method: sampleMethod
    .default('random')
    .description('Which rows are sampled: random ones, or the first that the source gives'),
  detectorSetId: id.allow(null).default(null).description('The detectors that look; null: all'),
  profile: Joi.boolean().default(true),
  onlyChanged: Joi.boolean().default(false),
  minutes: Joi.number()
    .integer()
    .min(1)
    .max(1440)
    .allow(null)
    .default(null)
    .description('A run that takes longer is ended'),
  retries: Joi.number()
    .integer()
    .min(0)
    .max(5)
    .default(0)
    .description('How often a failed run is tried again, after 1, 2, 4 … minutes'),
  memoryMb: Joi.number()
    .integer()
    .min(64)
    .max(8192)
    .allow(null)
    .default(null)
    .description('Memory for reading files, in MB'),
  fileKinds: fileKindsBody.description('Kinds of files that are read; null: all'),
});
const name = Joi.string().trim().min(1).max(120);
const body = { scope: scopeBody, options, schedule: scheduleBody.allow(null), enabled: Joi.boolean() };
const rights = 'source administrator in its domain';

export const planEndpoints = {
  list: endpoint({
    id: 'plans',
    method: 'get',
    path: '/sources/:id/plans',
    area: 'scanning',
    summary: 'Scan plans of a source',
    params: idParam,
    answers: 'Plans with their next times.',
  }),
  get: endpoint({
    id: 'plan',
    method: 'get',
    path: '/plans/:id',
    area: 'scanning',
    summary: 'One scan plan',
    params: idParam,
    answers: 'The plan.',
  }),
  add: endpoint({
    id: 'addPlan',
    method: 'post',
    path: '/sources/:id/plans',
    area: 'scanning',
    summary: 'Make a scan plan',
    rights,
    params: idParam,
    body: Joi.object({
      ...body,
      name: name.required(),
      scope: scopeBody.required(),
      options: options.default({
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
      schedule: scheduleBody.allow(null).default(null),
    }),
    answers: 'The plan.',
  }),
  change: endpoint({
    id: 'changePlan',
    method: 'patch',
    path: '/plans/:id',
    area: 'scanning',
    summary: 'Change a scan plan',
    rights,
    params: idParam,
    body: Joi.object({ ...body, name }).min(1),
    answers: 'The plan as it is now. Send If-Match with its version.',
  }),
  leaveOut: endpoint({
    id: 'leaveOutOfPlan',
    method: 'put',
    path: '/plans/:id/left-out',
    area: 'scanning',
    summary: 'Leave new objects that a plan does not cover out of it, or put them back on the worklist',
    rights,
    params: idParam,
    body: Joi.object({ paths: paths.min(1).required(), out: Joi.boolean().required() }),
    answers: 'Nothing.',
  }),
  remove: endpoint({
    id: 'removePlan',
    method: 'delete',
    path: '/plans/:id',
    area: 'scanning',
    summary: 'Remove a scan plan; its runs stay',
    rights,
    params: idParam,
    answers: 'Nothing.',
  }),
  run: endpoint({
    id: 'runPlan',
    method: 'post',
    path: '/plans/:id/runs',
    area: 'scanning',
    summary: 'Run a plan now',
    rights,
    params: idParam,
    answers: 'The run, waiting.',
  }),
  preview: endpoint({
    id: 'previewPlan',
    method: 'post',
    path: '/sources/:id/plan-preview',
    area: 'scanning',
    summary: 'What a plan would cover, and when it would run',
    rights,
    params: idParam,
    body: Joi.object({ scope: scopeBody.required(), schedule: scheduleBody.allow(null).default(null) }),
    answers: 'Sentences, counts from the live source, and the next five times.',
  }),
  outline: endpoint({
    id: 'sourceOutline',
    method: 'get',
    path: '/sources/:id/outline',
    area: 'scanning',
    summary: 'What the source holds now, by name',
    rights,
    params: idParam,
    answers: 'Paths and kinds, read live from the source; at most 20,000.',
  }),
};
