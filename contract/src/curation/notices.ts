import { NOTICE_KINDS, NOTICE_LONGEST } from '@idrel/core/catalog';
import {
  endpoint,
  flag,
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
import { assetKind } from '../things/assetKind.ts';

/** A day, as in 2026-11-27. */
export const noticeDay = Joi.string()
  .pattern(/^\d{4}-\d{2}-\d{2}$/)
  .isoDate()
  .raw()
  .messages({ 'string.pattern.base': '{{#label}} is no day as in 2026-11-27' });

export const noticeText = Joi.string().trim().min(1).max(NOTICE_LONGEST);
export const NoticeBody = shape({
  kind: oneOf(NOTICE_KINDS),
  text: noticeText,
  starts: noticeDay.description('The first day on which it holds.'),
  ends: nullable(noticeDay).description('The last one; null: until it is ended.'),
});
export type NoticeBody = Of<typeof NoticeBody>;

export const NoticeAnswer = shape({
  id: text,
  assetId: text,
  kind: oneOf(NOTICE_KINDS),
  text,
  starts: text,
  ends: nullable(text),
  holds: flag.description('Whether it holds today.'),
  maker: nullable(text),
  createdAt: moment,
  version: number,
});
export type NoticeAnswer = Of<typeof NoticeAnswer>;

/** Notices of an asset, and those of what it lies in or is made from that hold today. */
export const NoticesAnswer = shape({
  own: list(NoticeAnswer).description('Those that hold first, then those to come, then those that are over.'),
  around: list(
    shape({
      notice: NoticeAnswer,
      why: oneOf(['lies in', 'made from']),
      asset: shape({ id: text, kind: assetKind, path: text }),
      distance: number.description('How many steps up.'),
    }),
  ).description('The nearest first, at most 50.'),
  retiring: list(
    shape({
      why: oneOf(['lies in', 'made from']),
      asset: shape({ id: text, kind: assetKind, path: text }),
      distance: number,
      on: nullable(text).description('When it goes.'),
      replacement: nullable(shape({ id: text, path: text })),
    }),
  ).description('What it lies in or is made from that is retiring; the nearest first, at most 50.'),
});
export type NoticesAnswer = Of<typeof NoticesAnswer>;

const rights = role('editor', 'its domain');
export const noticeEndpoints = {
  list: endpoint({
    id: 'notices',
    method: 'get',
    path: '/assets/:id/notices',
    area: 'curation',
    summary: 'Notices of an asset, and of what it lies in or is made from',
    may: 'signed in',
    params: idParam,
    answer: NoticesAnswer,
    answers: 'Notices; of assets that you may not see none.',
  }),
  create: endpoint({
    id: 'createNotice',
    method: 'post',
    path: '/assets/:id/notices',
    area: 'curation',
    summary: 'Attach a note, a caution or a stop to an asset',
    may: rights,
    params: idParam,
    body: NoticeBody,
    answer: NoticeAnswer,
    answers: 'The notice. It is shown wherever the asset is shown while it holds.',
  }),
  change: endpoint({
    id: 'changeNotice',
    method: 'put',
    path: '/notices/:id',
    area: 'curation',
    summary: 'Change a notice, or end it',
    may: rights,
    params: idParam,
    body: NoticeBody,
    versioned: true,
    answer: NoticeAnswer,
    answers: 'The notice as it is now.',
  }),
  remove: endpoint({
    id: 'removeNotice',
    method: 'delete',
    path: '/notices/:id',
    area: 'curation',
    summary: 'Take a notice away, as if it had not been',
    may: rights,
    params: idParam,
    answers: 'Nothing.',
  }),
  bringBack: endpoint({
    id: 'bringBackNotice',
    method: 'post',
    path: '/notices/:id/bring-back',
    area: 'curation',
    summary: 'Bring a notice back that was taken away',
    may: rights,
    params: idParam,
    answer: NoticeAnswer,
    answers: 'The notice.',
  }),
};
