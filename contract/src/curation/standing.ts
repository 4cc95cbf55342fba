import { CHECK_ITEMS, type CheckItem, type Checklist } from '@idrel/core/catalog';
import {
  endpoint,
  extended,
  flag,
  idParam,
  Joi,
  like,
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
import { PersonBrief } from '../people/index.ts';
import { assetKind } from '../things/assetKind.ts';

/** What is asked of assets of a kind before they are trusted. */
export const ChecklistBody = like<Checklist>()(
  shape({
    described: Joi.boolean(),
    owned: Joi.boolean(),
    columnsDescribed: nullable(Joi.number().greater(0).max(1)).description('The share of its columns.'),
    findingsSettled: Joi.boolean(),
    lineageUp: Joi.boolean(),
    lineageDown: Joi.boolean(),
    freshDays: nullable(Joi.number().integer().min(1).max(3650)),
  }),
);
export const ChecklistAnswer = extended(ChecklistBody, {
  kind: assetKind,
  trusted: number.description('How many assets of the kind are trusted, of those that you may see.'),
  version: number,
});
export type ChecklistAnswer = Of<typeof ChecklistAnswer>;

/** How far an asset can be relied on, who said so, and what is open. */
export const StandingAnswer = shape({
  items: list(
    shape({
      item: oneOf(Object.keys(CHECK_ITEMS) as CheckItem[]),
      met: flag,
      told: text.description('How far it is, or what is missing.'),
    }),
  ).description('What the checklist of its kind asks.'),
  who: list(shape({ person: PersonBrief, as: text })).description('Who could do what is open: at most 6.'),
  certified: nullable(shape({ by: nullable(text), at: moment, until: nullable(text) })).description(
    'Who said that it can be relied on; null where it is not trusted.',
  ),
  lapsed: nullable(shape({ at: moment, reason: text, by: nullable(text) })).description(
    'Why it is trusted no more, where that lapsed by itself.',
  ),
  retirement: nullable(
    shape({
      replacement: nullable(shape({ id: text, kind: assetKind, path: text })),
      on: nullable(text),
      by: nullable(text),
    }),
  ),
});
export type StandingAnswer = Of<typeof StandingAnswer>;

/** An asset that was certified, and is trusted no more since something is not so any more. */
export const Lapsed = shape({
  id: text,
  kind: assetKind,
  name: text,
  path: text,
  source: text,
  domain: text,
  level: nullable(number),
  at: moment,
  reason: text,
  by: nullable(text).description('Who had certified it.'),
});
export type Lapsed = Of<typeof Lapsed>;

export const standingEndpoints = {
  standing: endpoint({
    id: 'standing',
    method: 'get',
    path: '/assets/:id/standing',
    area: 'curation',
    summary: 'What an asset lacks to be trusted, who certified it until when, what replaces it',
    may: 'signed in',
    params: idParam,
    answer: StandingAnswer,
    answers: 'Its checklist, item by item; certification, lapse and retirement.',
  }),
  noted: endpoint({
    id: 'noteLapse',
    method: 'put',
    path: '/assets/:id/lapse-noted',
    area: 'curation',
    summary: 'Take the lapse of a certification off the worklist, or put it back',
    may: role('steward', 'its domain'),
    params: idParam,
    body: shape({ noted: Joi.boolean() }),
    answers: 'Nothing.',
  }),
  checklists: endpoint({
    id: 'checklists',
    method: 'get',
    path: '/checklists',
    area: 'curation',
    summary: 'What is asked of assets of each kind before they are trusted',
    may: 'signed in',
    answer: list(ChecklistAnswer),
    answers: 'A checklist for each kind of asset; version 0: nothing was said yet, and nothing is asked.',
  }),
  changeChecklist: endpoint({
    id: 'changeChecklist',
    method: 'put',
    path: '/checklists/:kind',
    area: 'curation',
    summary: 'Change what is asked of assets of a kind',
    may: role('administrator', 'any domain', 'everywhere'),
    params: shape({ kind: assetKind }),
    body: ChecklistBody,
    versioned: true,
    answer: ChecklistAnswer,
    answers: 'The checklist. What was certified and is not so any more lapses within a minute.',
  }),
};
