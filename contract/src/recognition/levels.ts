import { LEVEL_KINDS } from '@idrel/core/recognition/classes';
import { endpoint, id, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

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
  readonly shown: readonly {
    readonly id: string;
    readonly kind: string;
    readonly path: string;
    readonly source: string;
    readonly before: number | null;
    readonly after: number | null;
  }[];
}

/** What the organisation calls a level, and how what has it is to be handled. */
export interface LevelText {
  readonly name: string;
  readonly meaning: string;
  readonly advice: string;
}
export interface LevelAnswer extends LevelText {
  readonly level: number;
  /** The word by which searches know it, whatever it is called. */
  readonly key: string;
  readonly version: number;
}
/** Kinds of assets to which levels rise from what they hold. */
export interface LevelKindsAnswer {
  readonly kinds: readonly string[];
  readonly version: number;
}

const kindsBody = Joi.array()
  .items(Joi.string().valid(...LEVEL_KINDS))
  .max(LEVEL_KINDS.length)
  .unique()
  .required();
const ruleBody = Joi.object({
  name: Joi.string().trim().min(1).max(120).required(),
  classKeys: Joi.array()
    .items(Joi.string().max(80))
    .min(1)
    .max(20)
    .unique()
    .required()
    .description('All of them must be carried by columns of one asset'),
  level: Joi.number().integer().min(1).max(4).required(),
  kinds: Joi.array()
    .items(Joi.string().max(40))
    .min(1)
    .max(20)
    .unique()
    .allow(null)
    .required()
    .description('Kinds of assets that are raised; null: all'),
});
const rights = 'steward in any domain';

export const levelEndpoints = {
  levels: endpoint({
    id: 'levels',
    method: 'get',
    path: '/levels',
    area: 'recognition',
    summary: 'The sensitivity levels, lowest first',
    answers: 'Name, meaning and advice of each.',
  }),
  changeLevel: endpoint({
    id: 'changeLevel',
    method: 'put',
    path: '/levels/:level',
    area: 'recognition',
    summary: 'Say what a level is called, what it means, and how what has it is to be handled',
    rights: 'administrator in any domain',
    params: Joi.object({ level: Joi.number().integer().min(1).max(4).required() }),
    body: Joi.object({
      name: Joi.string().trim().min(1).max(40).required(),
      meaning: Joi.string().trim().allow('').max(2000).required(),
      advice: Joi.string().trim().allow('').max(4000).required(),
    }),
    answers: 'The level. Send If-Match with the version you saw. Searches go on knowing it by its key.',
  }),
  levelKinds: endpoint({
    id: 'levelKinds',
    method: 'get',
    path: '/level-kinds',
    area: 'recognition',
    summary: 'Kinds of assets to which levels rise',
    answers: 'The kinds.',
  }),
  changeLevelKinds: endpoint({
    id: 'changeLevelKinds',
    method: 'put',
    path: '/level-kinds',
    area: 'recognition',
    summary: 'Choose the kinds of assets to which levels rise',
    rights,
    body: Joi.object({ kinds: kindsBody }),
    answers: 'The kinds. Send If-Match with the version you saw. Levels follow at once.',
  }),
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
    summary: 'What a rule of levels, other kinds, or another level of a class would change',
    rights,
    body: Joi.alternatives(
      Joi.object({ id: id.allow(null).required(), rule: ruleBody.allow(null).required() }),
      Joi.object({ kinds: kindsBody }),
      Joi.object({ classKey: Joi.string().max(80).required(), level: Joi.number().integer().min(1).max(4).required() }),
    ).required(),
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
