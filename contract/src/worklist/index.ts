import { RequestAnswer, ReviewAnswer } from '../access/index.ts';
import { Lapsed } from '../curation/index.ts';
import {
  either,
  endpoint,
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
  shape,
  text,
  withDefault,
} from '../http/index.ts';
import { FindingAnswer } from '../recognition/index.ts';
import { assetKind } from '../things/assetKind.ts';
import { Discussion } from '../writing/index.ts';

/** What lies downstream of something that happened. */
const ReachedAsset = shape({ id: text, kind: assetKind, path: text, source: text, distance: number, mine: flag });
export type ReachedAsset = Of<typeof ReachedAsset>;

/** A flow whose last run failed, and what lies behind it. */
export const FailedFlow = shape({
  id: text,
  path: text,
  sourceId: text,
  source: text,
  runId: text,
  at: moment,
  message: nullable(text),
  reached: list(ReachedAsset).description("What is made by it, one's own first; at most 60."),
});
export type FailedFlow = Of<typeof FailedFlow>;

/** In what way something is broken, found without running it. */
export const BROKEN = ['names what is gone', 'is written no more', 'is made from what retires'] as const;
/** Something that is broken, by what, and what lies behind it. */
export const BrokenThing = shape({
  id: text,
  kind: assetKind,
  path: text,
  source: text,
  what: oneOf(BROKEN),
  since: moment,
  sign: list(text).description('By what it is broken, as ids: whoever notes it names them.'),
  priority: number,
  causes: list(shape({ id: text, kind: assetKind, path: text })).description(
    'What is gone, wrote it, or retires; as far as it may be seen.',
  ),
  reached: list(ReachedAsset).description("What is made from it, one's own first; at most 60."),
});
export type BrokenThing = Of<typeof BrokenThing>;

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
      reached: list(ReachedAsset).description("What lies downstream, one's own first."),
    }),
  ),
});
export type BreakingNews = Of<typeof BreakingNews>;

export const WorkItem = either(
  shape({ kind: oneOf(['breaking']), key: text, news: BreakingNews }),
  shape({ kind: oneOf(['failed']), key: text, flow: FailedFlow }),
  shape({ kind: oneOf(['broken']), key: text, thing: BrokenThing }),
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
      priority: number,
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
    kind: oneOf(['request']),
    key: text,
    why: oneOf(['answer', 'answered', 'ending']).description(
      'You answer it; it is yours and was answered; it is yours, and what was granted ends soon.',
    ),
    request: RequestAnswer,
  }),
  shape({
    kind: oneOf(['review']),
    key: text,
    review: ReviewAnswer,
  }),
  shape({
    kind: oneOf(['routine']),
    key: text,
    routine: shape({
      id: text,
      name: text,
      why: oneOf(['asks', 'take', 'failed', 'question']).description(
        'A run would change far more than usual; it was given to you; its last run failed; it asks of what you answer for.',
      ),
      runId: nullable(text),
      at: nullable(moment),
      changes: nullable(number),
      most: nullable(number),
      problem: nullable(text),
    }),
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
    failed: number,
    broken: number,
    request: number,
    review: number,
    routine: number,
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
      kind: optional(
        oneOf([
          'finding',
          'unowned',
          'lapsed',
          'discussion',
          'scan',
          'breaking',
          'failed',
          'broken',
          'request',
          'review',
          'routine',
        ]),
      ),
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
  brokenSeen: endpoint({
    id: 'seeBroken',
    method: 'put',
    path: '/assets/:id/broken-seen',
    area: 'worklist',
    summary: 'Take what is broken off your worklist, or put it back',
    may: 'signed in',
    params: idParam,
    body: shape({ what: oneOf(BROKEN), sign: list(id).max(1000), seen: Joi.boolean() }),
    answers: 'Nothing. Broken by something else it comes onto it again.',
  }),
  failedSeen: endpoint({
    id: 'seeFailed',
    method: 'put',
    path: '/assets/:id/failed-run-seen',
    area: 'worklist',
    summary: 'Take a failed run of a flow off your worklist, or put it back',
    may: 'signed in',
    params: idParam,
    body: shape({ runId: Joi.string().max(200), seen: Joi.boolean() }),
    answers: 'Nothing. The next run that fails comes onto it again.',
  }),
};
