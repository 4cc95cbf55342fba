import {
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
  optional,
  role,
  shape,
  text,
} from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';

/** Facts that make assets matter: what the filter finds has at least this priority. */
export const PriorityRuleBody = shape({
  name: Joi.string().trim().min(1).max(120),
  filter: Joi.string().trim().min(1).max(2000).description('Filter language; it cannot ask for priority itself.'),
  priority: Joi.number().integer().min(1).max(2).description('1 important, 2 critical.'),
  enabled: Joi.boolean(),
});
export type PriorityRuleBody = Of<typeof PriorityRuleBody>;
export const PriorityRule = extended(PriorityRuleBody, {
  id: text,
  found: number.description('How many assets that you may see it found when it was last asked.'),
  madeBy: nullable(text),
  version: number,
});
export type PriorityRule = Of<typeof PriorityRule>;

const shift = shape({
  before: number,
  after: number,
  assets: number,
});
export const PriorityPreview = shape({
  found: number.description('How many assets the rule finds now.'),
  shifts: list(shift).description('How many assets would go from which priority to which, inherited ones among them.'),
  shown: list(
    shape({
      id: text,
      kind: assetKind,
      path: text,
      source: text,
      before: number,
      after: number,
      from: nullable(text).description('From what it would inherit it.'),
    }),
  ).description('The first 100 of those that you may see, what rises most first.'),
});
export type PriorityPreview = Of<typeof PriorityPreview>;

const rights = role('steward', 'any domain', 'everywhere');
export const priorityEndpoints = {
  list: endpoint({
    id: 'priorityRules',
    method: 'get',
    path: '/priority-rules',
    area: 'curation',
    summary: 'Rules by which assets matter',
    may: 'signed in',
    answer: shape({ rules: list(PriorityRule), settledAt: nullable(moment), mayChange: flag }),
    answers: 'The rules, and when all that follows from them was last worked out.',
  }),
  create: endpoint({
    id: 'createPriorityRule',
    method: 'post',
    path: '/priority-rules',
    area: 'curation',
    summary: 'Make a rule by which assets matter',
    may: rights,
    body: PriorityRuleBody,
    problems: ['name-taken'],
    answer: PriorityRule,
    answers: 'The rule. What follows from it is worked out at once, in the background.',
  }),
  change: endpoint({
    id: 'changePriorityRule',
    method: 'put',
    path: '/priority-rules/:id',
    area: 'curation',
    summary: 'Change a rule by which assets matter',
    may: rights,
    params: idParam,
    body: PriorityRuleBody,
    versioned: true,
    problems: ['name-taken'],
    answer: PriorityRule,
    answers: 'The rule as it is now.',
  }),
  remove: endpoint({
    id: 'removePriorityRule',
    method: 'delete',
    path: '/priority-rules/:id',
    area: 'curation',
    summary: 'Remove a rule by which assets matter',
    may: rights,
    params: idParam,
    answers: 'Nothing.',
  }),
  preview: endpoint({
    id: 'previewPriorityRule',
    method: 'post',
    path: '/priority-rules/preview',
    area: 'curation',
    summary: 'What a rule would change, before it is saved',
    may: rights,
    body: shape({
      rule: nullable(PriorityRuleBody).description('Null: if it were removed.'),
      id: optional(id).description('The rule that would be changed; left out: a new one.'),
    }),
    answer: PriorityPreview,
    answers: 'It is done, looked at and taken back.',
  }),
};
