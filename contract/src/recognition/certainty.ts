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
  role,
  shape,
  text,
} from '../http/index.ts';

const part = (least: number) => Joi.number().min(least).max(1);
/** From which confidence a class is certain, and from which it is shown at all, 0.5 to 1. */
export const ThresholdBody = shape({ certain: part(0.5), settle: part(0.5) });
export type ThresholdBody = Of<typeof ThresholdBody>;
export const ThresholdAnswer = extended(ThresholdBody, { classKey: text, version: number });
export type ThresholdAnswer = Of<typeof ThresholdAnswer>;
/** What confirms a finding without a person: all of it must hold. */
export const CertaintyRuleBody = shape({
  name: Joi.string().trim().min(1).max(120),
  classKeys: nullable(list(Joi.string().max(80)).min(1).max(200).unique()).description('Null: every class'),
  checked: Joi.boolean().description('Only what a detector verified by check digits'),
  named: Joi.boolean().description("Only where the column's name agrees"),
  minShare: part(0),
  minConfidence: part(0.5),
  minDistinct: Joi.number().integer().min(1).max(1_000_000),
});
export type CertaintyRuleBody = Of<typeof CertaintyRuleBody>;
export const CertaintyRuleAnswer = extended(CertaintyRuleBody, {
  id: text,
  version: number,
  confirms: number.description('Findings in domains that one may see which it confirms now.'),
});
export type CertaintyRuleAnswer = Of<typeof CertaintyRuleAnswer>;
/** A dismissal that holds for every column of a name and type in a domain and below. */
export const RememberedDismissal = shape({
  id: text,
  classKey: text,
  column: text,
  type: nullable(text),
  domain: text,
  reason: text,
  by: nullable(text),
  at: moment,
  columns: number.description('Columns that it holds back now.'),
  mayForget: flag,
});
export type RememberedDismissal = Of<typeof RememberedDismissal>;
export const CertaintyAnswer = shape({
  thresholds: list(ThresholdAnswer),
  rules: list(CertaintyRuleAnswer),
  remembered: list(RememberedDismissal),
});
export type CertaintyAnswer = Of<typeof CertaintyAnswer>;
export const StateOfFinding = oneOf(['certain', 'to-settle', 'confirmed', 'dismissed', 'ignored']);
export type StateOfFinding = Of<typeof StateOfFinding>;
/** What a change would do to findings. */
export const CertaintyPreview = shape({
  total: number,
  counts: list(
    shape({
      before: StateOfFinding,
      after: StateOfFinding,
      count: number,
    }),
  ),
  shown: list(
    shape({
      assetId: text,
      path: text,
      source: text,
      classKey: text,
      share: number,
      confidence: number,
      before: StateOfFinding,
      after: StateOfFinding,
    }),
  ).description('The first of them that one may see.'),
});
export type CertaintyPreview = Of<typeof CertaintyPreview>;

const rights = role('steward', 'any domain');
const keyParam = shape({ key: Joi.string().max(80) });

export const certaintyEndpoints = {
  certainty: endpoint({
    id: 'certainty',
    method: 'get',
    path: '/certainty',
    area: 'recognition',
    summary: 'What is certain: thresholds, rules that confirm, remembered dismissals',
    may: 'signed in',
    answer: CertaintyAnswer,
    answers: 'Thresholds that differ from the usual ones; rules; dismissals that hold by name and type.',
  }),
  setThreshold: endpoint({
    id: 'setThreshold',
    method: 'put',
    path: '/certainty/thresholds/:key',
    area: 'recognition',
    summary: 'Set from which confidence a class is certain, and from which it is shown',
    may: rights,
    params: keyParam,
    body: ThresholdBody,
    versioned: true,
    answer: ThresholdAnswer,
    answers: 'The threshold. Findings and levels follow at once.',
  }),
  removeThreshold: endpoint({
    id: 'removeThreshold',
    method: 'delete',
    path: '/certainty/thresholds/:key',
    area: 'recognition',
    summary: 'Take the usual thresholds for a class again',
    may: rights,
    params: keyParam,
    answers: 'Nothing.',
  }),
  addCertaintyRule: endpoint({
    id: 'addCertaintyRule',
    method: 'post',
    path: '/certainty/rules',
    area: 'recognition',
    summary: 'Make a rule that confirms findings',
    may: rights,
    body: CertaintyRuleBody,
    problems: ['name-taken'],
    answer: CertaintyRuleAnswer,
    answers: 'The rule. What fits it is confirmed at once.',
  }),
  changeCertaintyRule: endpoint({
    id: 'changeCertaintyRule',
    method: 'put',
    path: '/certainty/rules/:id',
    area: 'recognition',
    summary: 'Change a rule that confirms findings',
    may: rights,
    params: idParam,
    body: CertaintyRuleBody,
    versioned: true,
    problems: ['name-taken'],
    answer: CertaintyRuleAnswer,
    answers: 'The rule.',
  }),
  removeCertaintyRule: endpoint({
    id: 'removeCertaintyRule',
    method: 'delete',
    path: '/certainty/rules/:id',
    area: 'recognition',
    summary: 'Remove a rule that confirms findings',
    may: rights,
    params: idParam,
    answers: 'Nothing. What it confirmed is as it was without it.',
  }),
  previewCertainty: endpoint({
    id: 'previewCertainty',
    method: 'post',
    path: '/certainty/preview',
    area: 'recognition',
    summary: 'What a threshold or a rule would change',
    may: rights,
    body: either(
      shape({ classKey: Joi.string().max(80), threshold: nullable(ThresholdBody) }),
      shape({ id: nullable(id), rule: nullable(CertaintyRuleBody) }),
    ),
    problems: ['not-found'],
    answer: CertaintyPreview,
    answers: 'Findings whose state would differ, from what to what. Null: what its removal would change.',
  }),
  forgetDismissal: endpoint({
    id: 'forgetDismissal',
    method: 'delete',
    path: '/certainty/dismissals/:id',
    area: 'recognition',
    summary: 'Forget a dismissal that holds by name and type',
    may: role('steward', 'its domain'),
    params: idParam,
    answers: 'Nothing. What it held back is as the detectors say.',
  }),
};
