import { LEVEL_KINDS } from '@idrel/core/recognition/classes';
import {
  either,
  endpoint,
  extended,
  id,
  idParam,
  Joi,
  list,
  nullable,
  number,
  type Of,
  oneOf,
  role,
  shape,
  text,
} from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';

const kindsBody = list(oneOf(LEVEL_KINDS)).max(LEVEL_KINDS.length).unique();
/** A combination of classes that raises what holds their columns. */
export const LevelRuleBody = shape({
  name: Joi.string().trim().min(1).max(120),
  classKeys: list(Joi.string().max(80))
    .min(1)
    .max(20)
    .unique()
    .description('All of them must be carried by columns of one asset'),
  level: Joi.number().integer().min(1).max(4),
  kinds: nullable(list(Joi.string().max(40)).min(1).max(20).unique()).description(
    'Kinds of assets that are raised; null: all',
  ),
});
export type LevelRuleBody = Of<typeof LevelRuleBody>;
export const LevelRuleAnswer = extended(LevelRuleBody, { id: text, version: number });
export type LevelRuleAnswer = Of<typeof LevelRuleAnswer>;
/** What a change of rules would change, asset by asset. */
export const LevelPreview = shape({
  total: number,
  counts: list(shape({ before: nullable(number), after: nullable(number), count: number })),
  shown: list(
    shape({ id: text, kind: assetKind, path: text, source: text, before: nullable(number), after: nullable(number) }),
  ).description('The first of them that one may see.'),
});
export type LevelPreview = Of<typeof LevelPreview>;

/** What the organisation calls a level, and how what has it is to be handled. */
export const LevelText = shape({
  name: Joi.string().trim().min(1).max(40),
  meaning: Joi.string().trim().allow('').max(2000),
  advice: Joi.string().trim().allow('').max(4000),
});
export type LevelText = Of<typeof LevelText>;
export const LevelAnswer = extended(LevelText, {
  level: number,
  key: text.description('The word by which searches know it, whatever it is called.'),
  version: number,
});
export type LevelAnswer = Of<typeof LevelAnswer>;
/** Kinds of assets to which levels rise from what they hold. */
export const LevelKindsAnswer = shape({ kinds: list(oneOf(LEVEL_KINDS)), version: number });
export type LevelKindsAnswer = Of<typeof LevelKindsAnswer>;

const rights = role('steward', 'any domain');

export const levelEndpoints = {
  levels: endpoint({
    id: 'levels',
    method: 'get',
    path: '/levels',
    area: 'recognition',
    summary: 'The sensitivity levels, lowest first',
    may: 'signed in',
    answer: list(LevelAnswer),
    answers: 'Name, meaning and advice of each.',
  }),
  changeLevel: endpoint({
    id: 'changeLevel',
    method: 'put',
    path: '/levels/:level',
    area: 'recognition',
    summary: 'Say what a level is called, what it means, and how what has it is to be handled',
    may: role('administrator', 'any domain'),
    params: shape({ level: Joi.number().integer().min(1).max(4) }),
    body: LevelText,
    versioned: true,
    problems: ['name-taken'],
    answer: LevelAnswer,
    answers: 'The level. Searches go on knowing it by its key.',
  }),
  levelKinds: endpoint({
    id: 'levelKinds',
    method: 'get',
    path: '/level-kinds',
    area: 'recognition',
    summary: 'Kinds of assets to which levels rise',
    may: 'signed in',
    answer: LevelKindsAnswer,
    answers: 'The kinds.',
  }),
  changeLevelKinds: endpoint({
    id: 'changeLevelKinds',
    method: 'put',
    path: '/level-kinds',
    area: 'recognition',
    summary: 'Choose the kinds of assets to which levels rise',
    may: rights,
    body: shape({ kinds: kindsBody }),
    versioned: true,
    answer: LevelKindsAnswer,
    answers: 'The kinds. Levels follow at once.',
  }),
  levelRules: endpoint({
    id: 'levelRules',
    method: 'get',
    path: '/level-rules',
    area: 'recognition',
    summary: 'Rules from combinations of classes to levels',
    may: 'signed in',
    answer: list(LevelRuleAnswer),
    answers: 'All rules, the highest level first.',
  }),
  addLevelRule: endpoint({
    id: 'addLevelRule',
    method: 'post',
    path: '/level-rules',
    area: 'recognition',
    summary: 'Make a rule of levels',
    may: rights,
    body: LevelRuleBody,
    problems: ['name-taken'],
    answer: LevelRuleAnswer,
    answers: 'The rule. Levels follow at once.',
  }),
  changeLevelRule: endpoint({
    id: 'changeLevelRule',
    method: 'put',
    path: '/level-rules/:id',
    area: 'recognition',
    summary: 'Change a rule of levels',
    may: rights,
    params: idParam,
    body: LevelRuleBody,
    versioned: true,
    problems: ['name-taken'],
    answer: LevelRuleAnswer,
    answers: 'The rule. Levels follow at once.',
  }),
  removeLevelRule: endpoint({
    id: 'removeLevelRule',
    method: 'delete',
    path: '/level-rules/:id',
    area: 'recognition',
    summary: 'Remove a rule of levels',
    may: rights,
    params: idParam,
    answers: 'Nothing. Levels follow at once.',
  }),
  previewLevelRule: endpoint({
    id: 'previewLevelRule',
    method: 'post',
    path: '/level-rules/preview',
    area: 'recognition',
    summary: 'What a rule of levels, other kinds, or another level of a class would change',
    may: rights,
    body: either(
      shape({ id: nullable(id), rule: nullable(LevelRuleBody) }),
      shape({ kinds: kindsBody }),
      shape({ classKey: Joi.string().max(80), level: Joi.number().integer().min(1).max(4) }),
    ),
    answer: LevelPreview,
    answers: 'Assets whose level would differ, from what to what. Without a rule: what its removal would change.',
  }),
  levelReasons: endpoint({
    id: 'levelReasons',
    method: 'get',
    path: '/assets/:id/level-reasons',
    area: 'recognition',
    summary: 'Why an asset has the level that was found',
    may: 'signed in',
    params: idParam,
    answer: list(text),
    answers: 'Reasons in words.',
  }),
};
