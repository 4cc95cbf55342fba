import { Lapsed } from '../curation/index.ts';
import {
  either,
  endpoint,
  flag,
  idParam,
  Joi,
  list,
  moment,
  nullable,
  number,
  type Of,
  oneOf,
  optional,
  shape,
  text,
  withDefault,
} from '../http/index.ts';
import { FindingAnswer } from '../recognition/index.ts';
import { assetKind } from '../things/assetKind.ts';
import { Discussion } from '../writing/index.ts';

/** Changes of one run that can break what is made from what changed. */
export const BreakingNews = shape({
  runId: text,
  sourceId: text,
  source: text,
  at: moment,
  changes: list(
    shape({
      id: text,
      kind: assetKind,
      path: text,
      what: text,
      reached: list(
        shape({ id: text, kind: assetKind, path: text, source: text, distance: number, mine: flag }),
      ).description("What lies downstream, one's own first."),
    }),
  ),
});
export type BreakingNews = Of<typeof BreakingNews>;

export const WorkItem = either(
  shape({ kind: oneOf(['breaking']), key: text, news: BreakingNews }),
  shape({ kind: oneOf(['finding']), key: text, finding: FindingAnswer }),
  shape({
    kind: oneOf(['unowned']),
    key: text,
    asset: shape({
      id: text,
      kind: assetKind,
      name: text,
      path: text,
      domain: text,
      source: text,
      version: number,
      columns: number,
      classes: list(text),
      level: nullable(number),
    }),
  }),
  shape({ kind: oneOf(['lapsed']), key: text, asset: Lapsed }),
  shape({
    kind: oneOf(['discussion']),
    key: text,
    discussion: Discussion,
    why: oneOf(['asked', 'mentioned']).description('You answer for the asset, or are mentioned.'),
  }),
  shape({
    kind: oneOf(['scan']),
    key: text,
    scan: shape({
      runId: text,
      sourceId: text,
      source: text,
      domain: text,
      at: moment,
      planId: nullable(text),
      plan: nullable(text),
      renames: list(shape({ from: text, to: text })).description('Likely renames that nobody has settled.'),
      uncovered: list(text).description('Objects that no scope covers and that the run before did not see.'),
    }),
  }),
);
export type WorkItem = Of<typeof WorkItem>;
export const WorklistAnswer = shape({
  counts: shape({
    finding: number,
    unowned: number,
    lapsed: number,
    discussion: number,
    scan: number,
    breaking: number,
  }),
  items: list(WorkItem),
});
export type WorklistAnswer = Of<typeof WorklistAnswer>;

export const worklistEndpoints = {
  list: endpoint({
    id: 'worklist',
    method: 'get',
    path: '/worklist',
    area: 'worklist',
    summary: 'What waits for your decision',
    may: 'signed in',
    query: shape({
      kind: optional(oneOf(['finding', 'unowned', 'lapsed', 'discussion', 'scan', 'breaking'])),
      limit: withDefault(Joi.number().integer().min(1).max(500), 200),
    }),
    answer: WorklistAnswer,
    answers:
      'Items in domains where you are a steward (what scans left to decide: a source administrator), weightiest first.',
  }),
  seen: endpoint({
    id: 'seeBreaking',
    method: 'put',
    path: '/runs/:id/breaking-seen',
    area: 'worklist',
    summary: 'Take breaking changes of a run off your worklist, or put them back',
    may: 'signed in',
    params: idParam,
    body: shape({ seen: Joi.boolean() }),
    answers: 'Nothing.',
  }),
};
