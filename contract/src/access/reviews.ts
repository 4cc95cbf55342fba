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
  whole,
  withDefault,
} from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';
import { ANSWERERS } from './requests.ts';

const chosen = nullable(Joi.string().trim().min(1).max(2000)).description(
  'Only rights on what it finds, on what that lies in and on what lies in it; null: all.',
);
const rest = oneOf(['ends', 'stays']).description(
  'What becomes of rights of which nobody has said anything at its end.',
);

export const ReviewBody = shape({
  name: Joi.string().trim().min(1).max(120),
  filter: withDefault(chosen, null),
  endsAt: moment,
  rest: withDefault(rest, 'ends'),
});
export type ReviewBody = Of<typeof ReviewBody>;

export const ReviewAnswer = shape({
  id: text,
  name: text,
  filter: nullable(text),
  endsAt: moment,
  rest,
  startedBy: nullable(text),
  startedAt: moment,
  overAt: nullable(moment),
  kept: whole,
  ended: whole,
  open: whole.description('Of which nobody has said anything yet.'),
  waiting: whole.description('Of these as many as it is your turn to decide on.'),
  mayEnd: flag,
  version: number,
});
export type ReviewAnswer = Of<typeof ReviewAnswer>;

/** A right under review: who reads what, by which policy. */
export const ReviewItem = shape({
  id: text,
  policyId: nullable(text).description('Null where it is gone, or is not yours to see.'),
  policy: text,
  requestId: nullable(text),
  subject: shape({ kind: oneOf(['person', 'group', 'everyone']), id: nullable(text), name: text }),
  people: whole.description('How many that are.'),
  assets: list(shape({ id: text, kind: assetKind, path: text, source: text })).description(
    'What it opens, as far as you may see it; none: whatever a filter finds.',
  ),
  hidden: whole,
  answerers: ANSWERERS,
  lastUsed: nullable(moment),
  until: nullable(moment),
  decision: nullable(oneOf(['kept', 'ended', 'gone'])).description('`gone`: it ended otherwise meanwhile.'),
  decidedBy: nullable(text).description('Null also where it ended with the review.'),
  decidedAt: nullable(moment),
  mayDecide: flag,
});
export type ReviewItem = Of<typeof ReviewItem>;

/** What ending the rights that nobody has decided on would take. */
export const ReviewEffect = shape({
  rights: whole,
  people: whole,
  tables: whole,
  columns: whole,
  rows: list(
    shape({
      person: text,
      tables: whole,
      columns: whole.description('Columns that they would read no more.'),
      first: list(text).description('Some of the tables.'),
    }),
  ).description('Who would lose the most first; at most 300.'),
  used: list(
    shape({ personId: text, person: text, table: text, column: nullable(text), at: moment, times: whole }),
  ).description('What they would lose and asked for in the last 30 days: at most 200.'),
});
export type ReviewEffect = Of<typeof ReviewEffect>;

const ADMINISTRATOR = role('policy administrator', 'any domain');

export const reviewEndpoints = {
  reviews: endpoint({
    id: 'accessReviews',
    method: 'get',
    path: '/access/reviews',
    area: 'access',
    summary: 'Reviews of rights',
    may: 'signed in',
    answer: list(ReviewAnswer),
    answers: 'Those that you started, that ask you, or that are of your domains: what runs first.',
  }),
  reviewed: endpoint({
    id: 'rightsForReview',
    method: 'post',
    path: '/access/reviews/found',
    area: 'access',
    summary: 'Which rights a review would ask about, and whom',
    may: ADMINISTRATOR,
    body: shape({ filter: chosen }),
    answer: shape({
      rights: whole,
      policies: whole,
      asked: list(shape({ name: text, rights: whole })).description('Who would be asked, the most first.'),
    }),
    answers: 'Figures; nothing is saved.',
  }),
  startReview: endpoint({
    id: 'startAccessReview',
    method: 'post',
    path: '/access/reviews',
    area: 'access',
    summary: 'Start a review of rights',
    may: ADMINISTRATOR,
    body: ReviewBody,
    problems: ['name-taken'],
    answer: ReviewAnswer,
    answers: 'The review. It asks about the rights that there are now, of the domains whose policies you administer.',
  }),
  reviewItems: endpoint({
    id: 'accessReviewItems',
    method: 'get',
    path: '/access/reviews/:id/items',
    area: 'access',
    summary: 'Rights under review',
    may: 'signed in',
    params: idParam,
    query: shape({
      which: withDefault(oneOf(['waiting', 'open', 'decided', 'all']), 'all').description(
        '`waiting`: of the open ones those on which it is your turn to decide.',
      ),
      offset: withDefault(Joi.number().integer().min(0).max(1_000_000), 0),
      limit: withDefault(Joi.number().integer().min(1).max(200), 100),
    }),
    answer: shape({ items: list(ReviewItem), total: whole }),
    answers: 'Those that you may decide, or whose policies you administer.',
  }),
  decideRight: endpoint({
    id: 'decideRight',
    method: 'put',
    path: '/access/reviews/items/:id',
    area: 'access',
    summary: 'Keep a right that is under review, or end it',
    may: { words: 'whoever answers for all that it opens, their deputy, or policy administrator in its domains' },
    params: idParam,
    body: shape({
      decision: nullable(oneOf(['kept', 'ended'])).description(
        'An ended right ends at once. Null takes the decision back, and brings the right back.',
      ),
      seen: nullable(moment).description('When the decision was made that you saw; null for none.'),
    }),
    problems: ['decided-meanwhile', 'settled-already'],
    answer: ReviewItem,
    answers: 'The right as it is now.',
  }),
  reviewEffect: endpoint({
    id: 'effectOfReviewEnd',
    method: 'get',
    path: '/access/reviews/:id/effect',
    area: 'access',
    summary: 'Who would lose what if the rights that nobody has decided on ended',
    may: ADMINISTRATOR,
    params: idParam,
    heavy: true,
    answer: ReviewEffect,
    answers: 'Figures and rows; nothing is changed.',
  }),
  endReview: endpoint({
    id: 'endAccessReview',
    method: 'post',
    path: '/access/reviews/:id/end',
    area: 'access',
    summary: 'End a review now',
    may: { words: 'policy administrator in the domains of all its rights' },
    params: idParam,
    body: shape({ rest, open: whole.description('How many it was seen that nobody has decided on.') }),
    problems: ['settled-already', 'count-changed'],
    answer: ReviewAnswer,
    answers: 'The review.',
  }),
};
