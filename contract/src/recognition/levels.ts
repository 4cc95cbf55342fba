import Joi from 'joi';
import { endpoint, idParam } from '../http/index.ts';

/** A combination of classes that raises what holds their columns. */
export interface LevelRuleBody {
  readonly name: string;
  readonly classKeys: readonly string[];
  readonly level: number;
  readonly kinds: readonly string[] | null;
}
export interface LevelRuleAnswer extends LevelRuleBody {
  readonly id: string;
  readonly version: number;
}
/** What a change of rules would change, asset by asset. */
export interface LevelPreview {
  readonly total: number;
  readonly counts: readonly { readonly before: number | null; readonly after: number | null; readonly count: number }[];
  /** The first of them that one may see. */
  readonly shown: readonly { readonly id: string; readonly kind: string; readonly path: string; readonly source: string; readonly before: number | null; readonly after: number | null }[];
}

const ruleBody = Joi.object({
  name: Joi.string().trim().min(1).max(120).required(),
  classKeys: Joi.array().items(Joi.string().max(80)).min(1).max(20).unique().required().description('All of them must be carried by columns of one asset'),
  level: Joi.number().integer().min(1).max(4).required(),
  kinds: Joi.array().items(Joi.string().max(40)).min(1).max(20).unique().allow(null).required().description('Kinds of assets that are raised; null: all'),
});
const rights = 'steward in any domain';

export const levelEndpoints = {
  levelRules: endpoint({
    id: 'levelRules',
    method: 'get',
    path: '/level-rules',
    area: 'recognition',
    summary: 'Rules from combinations of classes to levels',
    answers: 'All rules, the highest level first.',
  }),
  addLevelRule: endpoint({
    id: 'addLevelRule',
    method: 'post',
    path: '/level-rules',
    area: 'recognition',
    summary: 'Make a rule of levels',
    rights,
    body: ruleBody,
    answers: 'The rule. Levels follow at once.',
  }),
  changeLevelRule: endpoint({
    id: 'changeLevelRule',
    method: 'put',
    path: '/level-rules/:id',
    area: 'recognition',
    summary: 'Change a rule of levels',
    rights,
    params: idParam,
    body: ruleBody,
    answers: 'The rule. Send If-Match with the version you saw. Levels follow at once.',
  }),
  removeLevelRule: endpoint({
    id: 'removeLevelRule',
    method: 'delete',
    path: '/level-rules/:id',
    area: 'recognition',
    summary: 'Remove a rule of levels',
    rights,
    params: idParam,
    answers: 'Nothing. Levels follow at once.',
  }),
  previewLevelRule: endpoint({
    id: 'previewLevelRule',
    method: 'post',
    path: '/level-rules/preview',
    area: 'recognition',
    summary: 'What a rule of levels would change',
    rights,
    body: Joi.object({ id: Joi.string().uuid().allow(null).required(), rule: ruleBody.allow(null).required() }),
    answers: 'Assets whose level would differ, from what to what. Without a rule: what its removal would change.',
  }),
  levelReasons: endpoint({
    id: 'levelReasons',
    method: 'get',
    path: '/assets/:id/level-reasons',
    area: 'recognition',
    summary: 'Why an asset has the level that was found',
    params: idParam,
    answers: 'Reasons in words.',
  }),
};
