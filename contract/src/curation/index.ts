import { STANDINGS } from '@idrel/core/catalog';
import { AssetAnswer } from '../catalog/index.ts';
import {
  endpoint,
  flag,
  id,
  idParam,
  Joi,
  list,
  nullable,
  number,
  type Of,
  oneOf,
  optional,
  role,
  shape,
  text,
  whole,
} from '../http/index.ts';
import { noticeDay } from './notices.ts';
import { tagValue } from './tags.ts';

export * from './drawn.ts';
export * from './many.ts';
export * from './notices.ts';
export * from './priority.ts';
export * from './sheets.ts';
export * from './standing.ts';
export * from './suggestions.ts';
export * from './tags.ts';
export * from './tickets.ts';

export const AssetChange = shape({
  description: optional(nullable(Joi.string().trim().allow('').max(20_000))),
  standing: optional(oneOf(STANDINGS)),
  ownerIds: optional(list(id).max(1)).description('One, a person or a group; or none.'),
  stewardIds: optional(list(id).max(20).unique()),
  custodianIds: optional(list(id).max(20).unique()),
  termIds: optional(list(id).max(50).unique()),
  tags: optional(
    list(shape({ id, value: tagValue.allow('') }))
      .max(50)
      .unique('id'),
  ),
  certifiedUntil: optional(nullable(noticeDay)).description('With standing trusted: the last day on which it is.'),
  replacementId: optional(nullable(id)).description('With standing retiring: what takes its place.'),
  retiresOn: optional(nullable(noticeDay)).description('With standing retiring: when it goes.'),
  level: optional(nullable(Joi.number().integer().min(1).max(4))),
  levelReason: optional(nullable(Joi.string().trim().allow('').max(1000))),
  priority: optional(nullable(Joi.number().integer().min(0).max(2))).description(
    '0 ordinary, 1 important, 2 critical; null: as rules find.',
  ),
  priorityReason: optional(nullable(Joi.string().trim().allow('').max(1000))),
})
  .min(1)
  .with('certifiedUntil', 'standing')
  .with('replacementId', 'standing')
  .with('retiresOn', 'standing');
export type AssetChange = Of<typeof AssetChange>;

/** What of an asset's history can be put back, each by itself: as the journal calls it. */
export const PUT_BACK = [
  'description',
  'standing',
  'owners',
  'stewards',
  'custodians',
  'terms',
  'tags',
  'level',
  'priority',
] as const;

export const curationEndpoints = {
  know: endpoint({
    id: 'knowAsset',
    method: 'put',
    path: '/assets/:id/knowing',
    area: 'curation',
    summary: 'Say of yourself that you know an asset, or no longer',
    may: { words: 'whoever may see it, of themselves' },
    params: idParam,
    body: shape({ knows: flag }),
    answer: AssetAnswer,
    answers: 'The asset as it is now.',
  }),
  putBack: endpoint({
    id: 'putBack',
    method: 'post',
    path: '/assets/:id/put-back',
    area: 'curation',
    summary: 'Put one thing back as it was before a change that the journal tells of',
    may: role('editor', 'its domain', 'steward for standing and level'),
    params: idParam,
    body: shape({
      entry: Joi.string()
        .pattern(/^\d{1,18}$/, 'the id of an entry of the journal')
        .description('The entry of the journal.'),
      field: oneOf(PUT_BACK),
    }),
    versioned: true,
    problems: ['checklist-open', 'gone-meanwhile'],
    answer: AssetAnswer,
    answers: 'The asset as it is now. The journal tells of it as of any change.',
  }),
  describeMany: endpoint({
    id: 'describeAssets',
    method: 'put',
    path: '/descriptions',
    area: 'curation',
    summary: 'Describe many assets at once, each with a text of its own',
    may: role('editor', 'its domain'),
    body: shape({
      texts: list(shape({ id, version: whole, description: Joi.string().trim().allow('').max(20_000) }))
        .min(1)
        .max(2000)
        .unique('id'),
    }),
    bodyBytes: 16 << 20,
    heavy: true,
    problems: ['not-found'],
    answer: shape({
      saved: list(shape({ id: text, version: number })),
      refused: list(shape({ id: text, name: text, now: text })).description(
        'Assets that somebody changed since they were seen: what is said of them now stays.',
      ),
    }),
    answers: 'Which were described, each told in its history. When one of them is not yours to describe, none is.',
  }),
  edit: endpoint({
    id: 'editAsset',
    method: 'patch',
    path: '/assets/:id',
    area: 'curation',
    summary: 'Edit what people say of an asset',
    may: role('editor', 'its domain', 'steward for standing and level'),
    params: idParam,
    body: AssetChange,
    versioned: true,
    problems: ['checklist-open'],
    answer: AssetAnswer,
    answers: 'The asset as it is now.',
  }),
};
