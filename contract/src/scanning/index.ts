import { endpoint, id, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

export * from './agents.ts';
export * from './plans.ts';

export const RUN_STATES = [
  'waiting',
  'structure',
  'sampling',
  'recognition',
  'lineage',
  'done',
  'partly done',
  'failed',
  'cancelled',
] as const;
export type RunState = (typeof RUN_STATES)[number];
export const isEnded = (state: RunState): boolean => ['done', 'partly done', 'failed', 'cancelled'].includes(state);

export interface RunCounts {
  readonly objects?: number;
  readonly columns?: number;
  /** Objects that a run of what has changed did not read again. */
  readonly unchanged?: number;
  readonly sampled?: number;
  readonly toSample?: number;
  readonly findings?: number;
  readonly flows?: number;
  readonly edges?: number;
  readonly problems?: number;
}
export interface ChangedAsset {
  readonly id: string;
  readonly path: string;
  readonly kind: string;
  readonly what?: readonly string[];
  /** Columns that came or went with it. */
  readonly columns?: number;
}
/** What a run found different from the run before. Lists are cut at 200; the counts are whole. */
export interface RunComparison {
  readonly first: boolean;
  readonly counts: { readonly new: number; readonly changed: number; readonly gone: number; readonly back: number };
  readonly new: readonly ChangedAsset[];
  readonly changed: readonly ChangedAsset[];
  readonly gone: readonly ChangedAsset[];
  readonly back: readonly ChangedAsset[];
  /** What is likely the same under another name: a person confirms. */
  readonly renames?: readonly Rename[];
}
export interface Rename {
  readonly from: ChangedAsset;
  readonly to: ChangedAsset;
  /** 0 to 1. */
  readonly score: number;
  readonly why: readonly string[];
  readonly settled?: 'same' | 'different';
}
/** What a run tells of its way: what took longest, and what could not be read. */
export interface RunDetails {
  readonly slowest: readonly { readonly path: string; readonly seconds: number; readonly rows: number }[];
  /** At most 500. */
  readonly problems: readonly { readonly path: string; readonly what: string }[];
}
/** A moment of a run: seconds since its start, objects, sampled objects. */
export type Moment = readonly [seconds: number, objects: number, sampled: number];
export interface RunAnswer {
  readonly id: string;
  readonly sourceId: string;
  readonly source: string;
  readonly state: RunState;
  readonly counts: RunCounts;
  readonly comparison: RunComparison | null;
  readonly problem: { readonly what: string; readonly mend: string } | null;
  readonly planId: string | null;
  readonly plan: string | null;
  /** What the plan's scope left out of what is there; the first 200 paths. */
  readonly notCovered: { readonly count: number; readonly paths: readonly string[] } | null;
  /** Only when one run is asked for. */
  readonly pace?: readonly Moment[];
  readonly details?: RunDetails | null;
  readonly askedBy: string;
  /** The agent that reads it; null: Idrel itself. */
  readonly agent: string | null;
  /** The group of agents that it waits for, and how many of them are there; null when it does not wait for one. */
  readonly waitsFor: { readonly group: string; readonly present: number } | null;
  readonly askedAt: string;
  /** A run that waits until then to try again what failed. */
  readonly notBefore: string | null;
  readonly startedAt: string | null;
  readonly endedAt: string | null;
}
export interface LogLine {
  readonly id: number;
  readonly at: string;
  readonly level: 'info' | 'caution' | 'problem';
  readonly text: string;
}

export const scanEndpoints = {
  start: endpoint({
    id: 'startRun',
    method: 'post',
    path: '/sources/:id/runs',
    area: 'scanning',
    summary: 'Scan a source now',
    rights: 'source administrator in its domain',
    params: idParam,
    body: Joi.object({
      sample: Joi.boolean().default(true).description('Read a sample of values and recognise classes'),
      rows: Joi.number().integer().min(10).max(10000).default(500).description('Values read per column'),
      onlyChanged: Joi.boolean()
        .default(false)
        .description('Leave out what has not changed since it was last read, where the source can tell'),
    }).default({}),
    answers: 'The run, waiting.',
  }),
  list: endpoint({
    id: 'runs',
    method: 'get',
    path: '/sources/:id/runs',
    area: 'scanning',
    summary: 'Runs of a source, newest first',
    params: idParam,
    answers: 'At most 100 runs.',
  }),
  get: endpoint({
    id: 'run',
    method: 'get',
    path: '/runs/:id',
    area: 'scanning',
    summary: 'One run',
    params: idParam,
    answers: 'The run with counts and comparison.',
  }),
  log: endpoint({
    id: 'runLog',
    method: 'get',
    path: '/runs/:id/log',
    area: 'scanning',
    summary: 'Log of a run',
    params: idParam,
    answers: 'Lines in order.',
  }),
  events: endpoint({
    id: 'runEvents',
    method: 'get',
    path: '/runs/:id/events',
    area: 'scanning',
    summary: 'Follow a run as it goes',
    params: idParam,
    stream: true,
    answers: 'Events `run` and `log` until the run ends.',
  }),
  settleRename: endpoint({
    id: 'settleRename',
    method: 'post',
    path: '/runs/:id/renames',
    area: 'scanning',
    summary: 'Say whether a likely rename is one',
    rights: 'source administrator in its domain',
    params: idParam,
    body: Joi.object({ from: id.required(), to: id.required(), same: Joi.boolean().required() }),
    answers:
      'The run. When they are the same, what is gone takes the place of what is new, with everything that people wrote.',
  }),
  again: endpoint({
    id: 'runFailedAgain',
    method: 'post',
    path: '/runs/:id/failed-again',
    area: 'scanning',
    summary: 'Scan again what could not be read in a run',
    rights: 'source administrator in its domain',
    params: idParam,
    answers: 'A new run that covers just those objects.',
  }),
  compare: endpoint({
    id: 'compareRuns',
    method: 'get',
    path: '/runs/:id/comparison',
    area: 'scanning',
    summary: 'What a run differs in from an earlier one of the same source',
    params: idParam,
    query: Joi.object({ with: id.required().description('The earlier run') }),
    answers: 'New, changed, gone and back, over all runs between.',
  }),
  cancel: endpoint({
    id: 'cancelRun',
    method: 'post',
    path: '/runs/:id/cancel',
    area: 'scanning',
    summary: 'Cancel a run',
    rights: 'source administrator in its domain',
    params: idParam,
    answers: 'The run. The catalog stays as it was.',
  }),
};
