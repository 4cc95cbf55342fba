import { flag, list, moment, nullable, number, type Of, oneOf, optional, shape, text, tuple } from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';

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

export const RunCounts = shape({
  objects: optional(number),
  columns: optional(number),
  unchanged: optional(number).description('Objects that a run of what has changed did not read again.'),
  sampled: optional(number),
  toSample: optional(number),
  findings: optional(number),
  flows: optional(number),
  edges: optional(number),
  problems: optional(number),
});
export type RunCounts = Of<typeof RunCounts>;
export const ChangedAsset = shape({
  id: text,
  path: text,
  kind: assetKind,
  what: optional(list(text)),
  columns: optional(number).description('Columns that came or went with it.'),
});
export type ChangedAsset = Of<typeof ChangedAsset>;
export const Rename = shape({
  from: ChangedAsset,
  to: ChangedAsset,
  score: number.description('0 to 1.'),
  why: list(text),
  settled: optional(oneOf(['same', 'different'])),
});
export type Rename = Of<typeof Rename>;
/** What a run found different from the run before. Lists are cut at 200; the counts are whole. */
export const RunComparison = shape({
  first: flag,
  counts: shape({ new: number, changed: number, gone: number, back: number }),
  new: list(ChangedAsset),
  changed: list(ChangedAsset),
  gone: list(ChangedAsset),
  back: list(ChangedAsset),
  renames: optional(list(Rename)).description('What is likely the same under another name: a person confirms.'),
});
export type RunComparison = Of<typeof RunComparison>;
/** What a run tells of its way: what took longest, and what could not be read. */
export const RunDetails = shape({
  slowest: list(shape({ path: text, seconds: number, rows: number })),
  problems: list(shape({ path: text, what: text })).description('At most 500.'),
});
export type RunDetails = Of<typeof RunDetails>;
/** A moment of a run: seconds since its start, objects, sampled objects. */
export const Moment = tuple(number, number, number);
export type Moment = Of<typeof Moment>;
export const RunAnswer = shape({
  id: text,
  sourceId: text,
  source: text,
  state: oneOf(RUN_STATES),
  counts: RunCounts,
  comparison: nullable(RunComparison),
  problem: nullable(shape({ what: text, mend: text })),
  planId: nullable(text),
  plan: nullable(text),
  notCovered: nullable(shape({ count: number, paths: list(text) })).description(
    "What the plan's scope left out of what is there; the first 200 paths.",
  ),
  pace: optional(list(Moment)).description('Only when one run is asked for.'),
  details: optional(nullable(RunDetails)),
  askedBy: text,
  agent: nullable(text).description('The agent that reads it; null: Idrel itself.'),
  waitsFor: nullable(shape({ group: text, present: number })).description(
    'The group of agents that it waits for, and how many of them are there; null when it does not wait for one.',
  ),
  askedAt: moment,
  notBefore: nullable(moment).description('A run that waits until then to try again what failed.'),
  startedAt: nullable(moment),
  endedAt: nullable(moment),
});
export type RunAnswer = Of<typeof RunAnswer>;
export const LogLine = shape({ id: number, at: moment, level: oneOf(['info', 'caution', 'problem']), text: text });
export type LogLine = Of<typeof LogLine>;
