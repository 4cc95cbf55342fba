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
  type Of,
  oneOf,
  QUERY_PROBLEMS,
  role,
  shape,
  THREAD_PROBLEMS,
  text,
  whole,
  withDefault,
} from '../http/index.ts';
import { PartnerPerson } from '../people/index.ts';
import { assetKind } from '../things/assetKind.ts';
import { GrantEffect, masked, SAID_LONGEST } from './requests.ts';

export const SHARE_STATES = ['offered', 'accepted', 'declined', 'ended'] as const;
/** A name under which a partner reads what is shared with it: a database for its programs. */
export const localName = Joi.string()
  .trim()
  .pattern(/^[\p{L}_][\p{L}\p{N}_-]*$/u, 'a name')
  .max(63);
const said = withDefault(Joi.string().trim().allow('').max(SAID_LONGEST), '');
const columns = withDefault(nullable(list(Joi.string().max(63)).min(1).max(1600).unique()), null);

export const ShareBody = shape({
  partnerId: id,
  name: Joi.string().trim().min(1).max(120).description('As it is offered.'),
  note: said.description('What it is for, and what was agreed: the partner reads it.'),
  assetIds: list(id)
    .min(1)
    .max(200)
    .unique()
    .description('Of one source of tables or files: these, columns, or what they lie in.'),
  columns: columns.description('Only these columns; null for all.'),
  columnsBut: withDefault(Joi.boolean(), false).description('All but the columns named, also those added later.'),
  masked,
  rows: withDefault(
    nullable(
      shape({ column: Joi.string().min(1).max(63), values: list(Joi.string().max(200)).min(1).max(200).unique() }),
    ),
    null,
  ).description('Only rows in which the column has one of the values.'),
  until: withDefault(nullable(moment), null).description('The moment at which it ends.'),
});
export type ShareBody = Of<typeof ShareBody>;

export const ShareAnswer = extended(ShareBody, {
  id: text,
  number: whole.description('By which people name it.'),
  state: oneOf(SHARE_STATES),
  partner: text,
  source: shape({ id: text, name: text }),
  assets: list(shape({ id: text, kind: assetKind, path: text })).description('Those that are still there.'),
  offeredBy: nullable(text),
  offeredAt: moment,
  answeredBy: nullable(text),
  answeredAt: nullable(moment),
  answer: text.description('What the partner said.'),
  localName: nullable(text).description('Under which name the partner reads it.'),
  endedBy: nullable(text),
  endedAt: nullable(moment),
  endedBecause: text,
  heldBack: flag.description('It is accepted, but its policy is off: a review of rights ended that.'),
  use: shape({
    days: list(whole).length(30).description('Queries on each of the last thirty days, today last.'),
    queries: whole,
    people: whole,
    rows: whole,
    last: nullable(moment),
  }).description('What its people have read by it in the last thirty days.'),
  version: whole,
});
export type ShareAnswer = Of<typeof ShareAnswer>;

export const SharedAnswer = shape({
  id: text,
  number: whole,
  name: text,
  note: text,
  state: oneOf(SHARE_STATES),
  localName: nullable(text),
  offeredAt: moment,
  until: nullable(moment),
  answeredBy: nullable(text),
  answeredAt: nullable(moment),
  endedAt: nullable(moment),
  tables: whole.description('How many tables it is of.'),
  version: whole,
});
export type SharedAnswer = Of<typeof SharedAnswer>;

export const SharedTable = shape({
  schema: text,
  name: text,
  kind: text,
  meaning: text,
  limited: flag.description('Whether it holds more rows than are shared.'),
  columns: list(shape({ name: text, type: text, meaning: text, masked: nullable(text).description('How, in words.') })),
});
export type SharedTable = Of<typeof SharedTable>;

const giver = { words: 'policy administrator in every domain that the share reaches' } as const;
const speaker = { words: 'who speaks for the partner' } as const;
const reader = { words: 'people of the partner' } as const;

/** What those see who share. */
export const shareEndpoints = {
  shares: endpoint({
    id: 'shares',
    method: 'get',
    path: '/shares',
    area: 'access',
    summary: 'What is shared with partner organisations',
    may: role('policy administrator', 'any domain'),
    answer: list(ShareAnswer),
    answers: 'Shares of which you administer the policies of every domain: what is over last, else the newest first.',
  }),
  share: endpoint({
    id: 'share',
    method: 'get',
    path: '/shares/:id',
    area: 'access',
    summary: 'A share',
    may: giver,
    params: idParam,
    answer: ShareAnswer,
    answers: 'The share, with its use.',
  }),
  shareEffect: endpoint({
    id: 'shareEffect',
    method: 'post',
    path: '/shares/effect',
    area: 'access',
    summary: 'What an offer would open to a partner',
    may: role('policy administrator', 'any domain'),
    body: shape({ shareId: withDefault(nullable(id), null), draft: ShareBody }),
    problems: ['not-found'],
    heavy: true,
    answer: GrantEffect,
    answers: 'For anybody of the partner; nothing is saved.',
  }),
  offer: endpoint({
    id: 'offerShare',
    method: 'post',
    path: '/shares',
    area: 'access',
    summary: 'Offer assets to a partner organisation',
    may: giver,
    body: ShareBody,
    problems: ['not-found'],
    answer: ShareAnswer,
    answers: 'The share. Nothing is read by it before the partner accepts.',
  }),
  changeShare: endpoint({
    id: 'changeShare',
    method: 'put',
    path: '/shares/:id',
    area: 'access',
    summary: 'Change what is shared',
    may: giver,
    params: idParam,
    body: ShareBody,
    versioned: true,
    problems: ['settled-already'],
    answer: ShareAnswer,
    answers: 'The share. What is accepted holds in its new limits from the next statement on.',
  }),
  endShare: endpoint({
    id: 'endShare',
    method: 'post',
    path: '/shares/:id/end',
    area: 'access',
    summary: 'End a share',
    may: giver,
    params: idParam,
    body: shape({ because: Joi.string().trim().allow('').max(SAID_LONGEST).required() }),
    problems: ['settled-already'],
    answer: ShareAnswer,
    answers: 'The share. Whatever reads by it is ended at once.',
  }),
  shared: endpoint({
    id: 'shared',
    method: 'get',
    path: '/shared',
    area: 'access',
    summary: 'What is shared with your organisation',
    may: reader,
    partners: true,
    answer: shape({ shares: list(SharedAnswer), people: list(PartnerPerson) }),
    answers: 'Offers, what was accepted and what has ended, and your people; e-mail addresses for who speaks for it.',
  }),
  sharedTables: endpoint({
    id: 'sharedTables',
    method: 'get',
    path: '/shared/:id',
    area: 'access',
    summary: 'The tables of a share, as you read them',
    may: reader,
    partners: true,
    params: idParam,
    answer: list(SharedTable),
    answers: 'Of an offer as it would be.',
  }),
  answerShare: endpoint({
    id: 'answerShare',
    method: 'post',
    path: '/shared/:id/answer',
    area: 'access',
    summary: 'Accept, decline or give back what is shared',
    may: speaker,
    partners: true,
    params: idParam,
    body: shape({
      decision: oneOf(['accepted', 'declined', 'given back']),
      localName: withDefault(nullable(localName), null).description('Under which it is read: of who accepts.'),
      text: said,
    }),
    versioned: true,
    problems: ['name-taken', 'settled-already'],
    answer: SharedAnswer,
    answers: 'The share.',
  }),
  queryShared: endpoint({
    id: 'queryShared',
    method: 'post',
    path: '/shared/:id/query',
    area: 'access',
    summary: 'Run a SELECT on what is shared',
    may: reader,
    partners: true,
    params: idParam,
    body: shape({
      sql: Joi.string().max(100_000),
      limit: withDefault(Joi.number().integer().min(1).max(1_000_000), 100_000),
    }),
    stream: 'lines',
    problems: [...QUERY_PROBLEMS, ...THREAD_PROBLEMS],
    answers: 'Rows as NDJSON, as for a query of a source; it ends at once where the share does.',
  }),
};
