import { endpoint, id, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

/** From which confidence a class is certain, and from which it is shown at all, 0.5 to 1. */
export interface ThresholdBody {
  readonly certain: number;
  readonly settle: number;
}
export interface ThresholdAnswer extends ThresholdBody {
  readonly classKey: string;
  readonly version: number;
}
/** What confirms a finding without a person: all of it must hold. */
export interface CertaintyRuleBody {
  readonly name: string;
  /** Null: every class. */
  readonly classKeys: readonly string[] | null;
  /** Only what a detector verified by check digits. */
  readonly checked: boolean;
  /** Only where the column's name agrees. */
  readonly named: boolean;
  readonly minShare: number;
  readonly minConfidence: number;
  readonly minDistinct: number;
}
export interface CertaintyRuleAnswer extends CertaintyRuleBody {
  readonly id: string;
  readonly version: number;
  /** Findings in domains that one may see which it confirms now. */
  readonly confirms: number;
}
/** A dismissal that holds for every column of a name and type in a domain and below. */
export interface RememberedDismissal {
  readonly id: string;
  readonly classKey: string;
  readonly column: string;
  readonly type: string | null;
  readonly domain: string;
  readonly reason: string;
  readonly by: string | null;
  readonly at: string;
  /** Columns that it holds back now. */
  readonly columns: number;
  readonly mayForget: boolean;
}
export interface CertaintyAnswer {
  readonly thresholds: readonly ThresholdAnswer[];
  readonly rules: readonly CertaintyRuleAnswer[];
  readonly remembered: readonly RememberedDismissal[];
}
export type StateOfFinding = 'certain' | 'to-settle' | 'confirmed' | 'dismissed' | 'ignored';
/** What a change would do to findings. */
export interface CertaintyPreview {
  readonly total: number;
  readonly counts: readonly {
    readonly before: StateOfFinding;
    readonly after: StateOfFinding;
    readonly count: number;
  }[];
  /** The first of them that one may see. */
  readonly shown: readonly {
    readonly assetId: string;
    readonly path: string;
    readonly source: string;
    readonly classKey: string;
    readonly share: number;
    readonly confidence: number;
    readonly before: StateOfFinding;
    readonly after: StateOfFinding;
  }[];
}

const part = (least: number) => Joi.number().min(least).max(1).required();
const thresholdBody = Joi.object({ certain: part(0.5), settle: part(0.5) });
const ruleBody = Joi.object({
  name: Joi.string().trim().min(1).max(120).required(),
  classKeys: Joi.array()
    .items(Joi.string().max(80))
    .min(1)
    .max(200)
    .unique()
    .allow(null)
    .required()
    .description('Null: every class'),
  checked: Joi.boolean().required().description('Only what a detector verified by check digits'),
  named: Joi.boolean().required().description("Only where the column's name agrees"),
  minShare: part(0),
  minConfidence: part(0.5),
  minDistinct: Joi.number().integer().min(1).max(1_000_000).required(),
});
const rights = 'steward in any domain';
const keyParam = Joi.object({ key: Joi.string().max(80).required() });

export const certaintyEndpoints = {
  certainty: endpoint({
    id: 'certainty',
    method: 'get',
    path: '/certainty',
    area: 'recognition',
    summary: 'What is certain: thresholds, rules that confirm, remembered dismissals',
    answers: 'Thresholds that differ from the usual ones; rules; dismissals that hold by name and type.',
  }),
  setThreshold: endpoint({
    id: 'setThreshold',
    method: 'put',
    path: '/certainty/thresholds/:key',
    area: 'recognition',
    summary: 'Set from which confidence a class is certain, and from which it is shown',
    rights,
    params: keyParam,
    body: thresholdBody,
    answers: 'The threshold. Send If-Match with the version you saw, 0 for none. Findings and levels follow at once.',
  }),
  removeThreshold: endpoint({
    id: 'removeThreshold',
    method: 'delete',
    path: '/certainty/thresholds/:key',
    area: 'recognition',
    summary: 'Take the usual thresholds for a class again',
    rights,
    params: keyParam,
    answers: 'Nothing.',
  }),
  addCertaintyRule: endpoint({
    id: 'addCertaintyRule',
    method: 'post',
    path: '/certainty/rules',
    area: 'recognition',
    summary: 'Make a rule that confirms findings',
    rights,
    body: ruleBody,
    answers: 'The rule. What fits it is confirmed at once.',
  }),
  changeCertaintyRule: endpoint({
    id: 'changeCertaintyRule',
    method: 'put',
    path: '/certainty/rules/:id',
    area: 'recognition',
    summary: 'Change a rule that confirms findings',
    rights,
    params: idParam,
    body: ruleBody,
    answers: 'The rule. Send If-Match with the version you saw.',
  }),
  removeCertaintyRule: endpoint({
    id: 'removeCertaintyRule',
    method: 'delete',
    path: '/certainty/rules/:id',
    area: 'recognition',
    summary: 'Remove a rule that confirms findings',
    rights,
    params: idParam,
    answers: 'Nothing. What it confirmed is as it was without it.',
  }),
  previewCertainty: endpoint({
    id: 'previewCertainty',
    method: 'post',
    path: '/certainty/preview',
    area: 'recognition',
    summary: 'What a threshold or a rule would change',
    rights,
    body: Joi.alternatives(
      Joi.object({ classKey: Joi.string().max(80).required(), threshold: thresholdBody.allow(null).required() }),
      Joi.object({ id: id.allow(null).required(), rule: ruleBody.allow(null).required() }),
    ).required(),
    answers: 'Findings whose state would differ, from what to what. Null: what its removal would change.',
  }),
  forgetDismissal: endpoint({
    id: 'forgetDismissal',
    method: 'delete',
    path: '/certainty/dismissals/:id',
    area: 'recognition',
    summary: 'Forget a dismissal that holds by name and type',
    rights: 'steward in its domain',
    params: idParam,
    answers: 'Nothing. What it held back is as the detectors say.',
  }),
};
