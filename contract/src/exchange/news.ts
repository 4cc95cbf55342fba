import {
  endpoint,
  flag,
  free,
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
  shape,
  text,
  whole,
  withDefault,
} from '../http/index.ts';

/** What one can have oneself told of, and how soon. */
export const SUBSCRIBED = ['asset', 'search', 'domain', 'term'] as const;
export const PACES = ['at once', 'daily', 'weekly'] as const;
export type Subscribed = (typeof SUBSCRIBED)[number];
export type Pace = (typeof PACES)[number];

const how = {
  below: flag.description('Of an asset: also of what lies below it.'),
  pace: oneOf(PACES).description('Daily: each morning; weekly: on Monday.'),
  mail: flag.description('Also by mail.'),
  chat: flag.description('Also in the chat, to them alone.'),
};
export const SubscriptionBody = shape({
  what: oneOf(SUBSCRIBED),
  subjectId: nullable(id).description('Of an asset, a domain, a term.'),
  filter: nullable(Joi.string().trim().min(1).max(2000)).description('Of a search: assets that it finds then.'),
  ...how,
});
export type SubscriptionBody = Of<typeof SubscriptionBody>;
export const SubscriptionHow = shape(how);
export type SubscriptionHow = Of<typeof SubscriptionHow>;

export const Subscription = shape({
  id: text,
  what: oneOf(SUBSCRIBED),
  subjectId: nullable(text),
  filter: nullable(text),
  name: nullable(text).description('What it is called now; null where it is gone, or not yours to see.'),
  ...how,
  came: whole.description('So much came of it in the last 30 days.'),
  version: number,
});
export type Subscription = Of<typeof Subscription>;

export const News = shape({
  id: text,
  at: moment,
  person: nullable(text),
  byKey: nullable(text),
  action: text,
  kind: text,
  subjectId: text,
  subject: text,
  domain: nullable(text),
  before: nullable(free()),
  after: nullable(free()),
  unread: flag,
  because: nullable(text).description('The subscription that it came by; null once that is ended.'),
});
export type News = Of<typeof News>;

export const newsEndpoints = {
  list: endpoint({
    id: 'news',
    method: 'get',
    path: '/news',
    area: 'exchange',
    summary: 'What changed of what you have yourself told of',
    may: 'signed in',
    query: shape({
      before: optional(Joi.number().integer().min(1).max(Number.MAX_SAFE_INTEGER)).description('Older than this one.'),
      limit: withDefault(Joi.number().integer().min(1).max(200), 50),
    }),
    answer: shape({
      items: list(News),
      unread: whole.description('So many are unread, up to a hundred.'),
      next: nullable(text).description('Ask on with this as `before`; null: there is no more.'),
    }),
    answers: 'As far as you may see it now, the newest first. It is kept for 90 days.',
  }),
  read: endpoint({
    id: 'readNews',
    method: 'post',
    path: '/news/read',
    area: 'exchange',
    summary: 'Mark what came as read',
    may: 'signed in',
    body: shape({
      upTo: Joi.number()
        .integer()
        .min(1)
        .max(Number.MAX_SAFE_INTEGER)
        .required()
        .description('This one and all older.'),
    }),
    answers: 'Nothing.',
  }),
  subscriptions: endpoint({
    id: 'subscriptions',
    method: 'get',
    path: '/subscriptions',
    area: 'exchange',
    summary: 'What you have yourself told of',
    may: 'signed in',
    answer: shape({
      items: list(Subscription),
      canMail: flag.description('Whether mail can be sent to you here.'),
      canChat: flag.description('Whether there is a chat in which you can be told.'),
    }),
    answers: 'Yours.',
  }),
  subscribe: endpoint({
    id: 'subscribe',
    method: 'post',
    path: '/subscriptions',
    area: 'exchange',
    summary: 'Have yourself told of an asset, a search, a domain or a term',
    may: 'signed in',
    body: SubscriptionBody,
    problems: ['not-found', 'name-taken'],
    answer: Subscription,
    answers: 'The subscription. What others change from now on is told, as you may see it.',
  }),
  change: endpoint({
    id: 'changeSubscription',
    method: 'put',
    path: '/subscriptions/:id',
    area: 'exchange',
    summary: 'Change how soon and how you are told',
    may: 'signed in',
    params: idParam,
    versioned: true,
    body: SubscriptionHow,
    answer: Subscription,
    answers: 'The subscription.',
  }),
  end: endpoint({
    id: 'endSubscription',
    method: 'delete',
    path: '/subscriptions/:id',
    area: 'exchange',
    summary: 'End a subscription',
    may: 'signed in',
    params: idParam,
    answers: 'Nothing. What came of it stays.',
  }),
};
