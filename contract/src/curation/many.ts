import { LINK_KINDS, NOTICE_KINDS, STANDINGS } from '@idrel/core/catalog';
import { linkTitle, linkUrl } from '../catalog/addresses.ts';
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
  picked,
  shape,
  text,
} from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';
import { noticeDay, noticeText } from './notices.ts';
import { tagValue } from './tags.ts';

const remove = optional(flag.description('Takes it away instead of giving it.'));
/** What is done to each of many assets. */
export const ManyAction = either(
  shape({ kind: oneOf(['standing']), standing: oneOf(STANDINGS) }),
  shape({ kind: oneOf(['owner', 'steward', 'custodian', 'term']), id, remove }),
  shape({
    kind: oneOf(['domain']),
    id: nullable(id).description('Null: the domain of what holds it, or of its source.'),
  }),
  shape({ kind: oneOf(['tag']), id, value: optional(tagValue.allow('')), remove }),
  shape({ kind: oneOf(['notice']), notice: oneOf(NOTICE_KINDS), text: noticeText, ends: optional(noticeDay) }),
  shape({
    kind: oneOf(['class']),
    key: Joi.string().max(80),
    reason: Joi.string().trim().allow('').max(1000),
    remove: optional(flag.description('Dismisses it instead of confirming it.')),
  }),
  shape({
    kind: oneOf(['level']),
    level: nullable(Joi.number().integer().min(1).max(4)).description('Null: as it follows from the classes.'),
    reason: Joi.string().trim().allow('').max(1000),
  }),
  shape({ kind: oneOf(['link']), link: oneOf(LINK_KINDS), url: linkUrl, title: linkTitle }),
  shape({
    kind: oneOf(['description']),
    text: Joi.string()
      .trim()
      .min(1)
      .max(4000)
      .description('For what has none. {name}, {in}, {kind}, {type} and {source} stand for what the asset is.'),
  }),
).description(
  'Set the standing or the level; set the owner, or remove; add or remove a steward, a custodian or a term; move into a domain, with what lies in it; give or take a tag; confirm or dismiss a class in columns; attach a notice from today on, or a link; describe what has no description',
);
export type ManyAction = Of<typeof ManyAction>;

/** So many assets can be chosen one by one, and so many at all. */
export const MOST_CHOSEN = 5000;
export const MOST_AT_ONCE = 200_000;
const ids = list(id).max(MOST_CHOSEN).unique();
export const Choice = either(
  shape({ ids: ids.min(1) }),
  shape({
    filter: Joi.string().trim().allow('').max(2000),
    under: optional(id),
    except: optional(ids).description('Of those, not these.'),
  }),
).description('Assets by their ids, or all that a filter finds now, perhaps below an asset');
export type Choice = Of<typeof Choice>;

export const EFFECTS = ['changes', 'same', 'refused', 'unsuited'] as const;
export const BULK_STATES = [
  'prepared',
  'waiting',
  'running',
  'done',
  'cancelled',
  'failed',
  'undoing',
  'undone',
] as const;
/** What an action would do to what was found or chosen. */
export const effectFields = {
  found: number,
  changes: number,
  same: number.description('Already as the action wants it.'),
  refused: number.description('The person may not change them.'),
  unsuited: number.description('Of a kind that does not take it.'),
  items: list(
    shape({
      id: text,
      kind: assetKind,
      path: text,
      source: text,
      effect: oneOf(EFFECTS),
      before: nullable(text),
    }),
  ).description('The first 200, those that would change first.'),
};
const domain = shape({ id: text, name: text });
export const BulkEditAnswer = shape({
  id: text,
  at: moment,
  action: ManyAction,
  told: text.description('The action in words.'),
  state: oneOf(BULK_STATES),
  ...effectFields,
  unsuitedKinds: list(shape({ kind: assetKind, assets: number })),
  moves: list(shape({ from: domain, to: domain, assets: number })).description(
    'Before it is begun: from which domains what would change moves into which, beside what lies in it; the ten that most move between.',
  ),
  done: number.description('How many have been gone through.'),
  passedOver: number.description('Changed by somebody since you looked, or gone: left as they are.'),
  restored: nullable(number).description('After undoing: how many were put back; the others were changed again since.'),
  endedAt: nullable(moment),
  undoneAt: nullable(moment),
  undoable: flag,
  problem: nullable(text),
});
export type BulkEditAnswer = Of<typeof BulkEditAnswer>;
export const BulkEditBrief = picked(BulkEditAnswer, [
  'id',
  'at',
  'told',
  'state',
  'changes',
  'done',
  'passedOver',
  'restored',
  'undoable',
  'problem',
]);
export type BulkEditBrief = Of<typeof BulkEditBrief>;

const rights = {
  words:
    'editor in the domains of the assets; steward to set the standing or the level, and to decide of a class; source administrator in both domains to move into another one; for a tag, whoever may give it',
};
const own = { words: 'who made it' };
export const manyEndpoints = {
  prepare: endpoint({
    id: 'prepareBulkEdit',
    method: 'post',
    path: '/bulk-edits',
    area: 'curation',
    summary: 'Choose assets and an action, and see what it would change; nothing is changed yet',
    may: rights,
    body: shape({ choice: Choice, action: ManyAction }),
    answer: BulkEditAnswer,
    answers: 'What is chosen is kept as it was seen for a day: that is what is done.',
  }),
  mine: endpoint({
    id: 'bulkEdits',
    method: 'get',
    path: '/bulk-edits',
    area: 'curation',
    summary: 'Your changes of many assets',
    may: 'signed in',
    answer: list(BulkEditBrief),
    answers: 'The last 30 that were begun, newest first.',
  }),
  one: endpoint({
    id: 'bulkEdit',
    method: 'get',
    path: '/bulk-edits/:id',
    area: 'curation',
    summary: 'A change of many assets, and how far it is',
    may: own,
    params: idParam,
    answer: BulkEditAnswer,
    answers: 'The change.',
  }),
  start: endpoint({
    id: 'startBulkEdit',
    method: 'post',
    path: '/bulk-edits/:id/start',
    area: 'curation',
    summary: 'Do what was seen; it goes on by itself',
    may: own,
    params: idParam,
    problems: ['begun-already'],
    answer: BulkEditAnswer,
    answers: 'The change, under way.',
  }),
  cancel: endpoint({
    id: 'cancelBulkEdit',
    method: 'post',
    path: '/bulk-edits/:id/cancel',
    area: 'curation',
    summary: 'Stop; what is done stays done, and can be undone',
    may: own,
    params: idParam,
    answer: BulkEditAnswer,
    answers: 'The change.',
  }),
  undo: endpoint({
    id: 'undoBulkEdit',
    method: 'post',
    path: '/bulk-edits/:id/undo',
    area: 'curation',
    summary: 'Take it back, within a day; what somebody changed again since is left as they made it',
    may: own,
    params: idParam,
    problems: ['undone', 'not-undoable'],
    answer: BulkEditAnswer,
    answers: 'The change, on its way back.',
  }),
};
