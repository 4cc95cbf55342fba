import {
  endpoint,
  flag,
  id,
  idParam,
  Joi,
  list,
  moment,
  nullable,
  type Of,
  oneOf,
  optional,
  shape,
  text,
  whole,
  withDefault,
} from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';
import { access, mask, purpose } from './shapes.ts';

/** So long may be what is written beside a purpose, or as an answer. */
export const SAID_LONGEST = 2000;
const said = withDefault(Joi.string().trim().allow('').max(SAID_LONGEST), '');
const columns = withDefault(nullable(list(Joi.string().max(63)).min(1).max(1600).unique()), null);

export const AskBody = shape({
  assetIds: list(id)
    .min(1)
    .max(50)
    .unique()
    .description(
      'Tables, views, files, columns, or what they lie in. What different people answer for becomes several requests.',
    ),
  columns: columns.description('Only these columns; where one table is asked for. Null for all.'),
  purpose: purpose.description('What it is to be read for.'),
  note: said.description('What else whoever answers should know.'),
  until: withDefault(nullable(moment), null).description('Until when it is needed; null for without an end.'),
});
export type AskBody = Of<typeof AskBody>;

/** What of something that is opened is masked for those to whom it is. */
export const masked = withDefault(
  nullable(
    shape({
      mask,
      columns: columns.description('Null for all.'),
      columnsBut: withDefault(Joi.boolean(), false).description('All but the columns named, also those added later.'),
    }),
  ),
  null,
).description('What of it is masked for them, beside what policies mask already.');

export const GrantBody = shape({
  assetIds: list(id).min(1).max(50).unique().description('Of what was asked for, all or some.'),
  columns,
  columnsBut: withDefault(Joi.boolean(), false).description('All but the columns named, also those added later.'),
  until: withDefault(nullable(moment), null).description('The moment at which it ends.'),
  stated: withDefault(Joi.boolean(), false).description('Only for who states the purpose when they read.'),
  masked,
});
export type GrantBody = Of<typeof GrantBody>;

export const AnswerBody = shape({
  decision: oneOf(['granted', 'refused', 'ended', 'waiting']).description(
    '`ended`: what was granted ends now. `waiting`: the answer is taken back, and what it granted with it.',
  ),
  text: said.description('What is said to whoever asked; a refusal says why.'),
  grant: withDefault(nullable(GrantBody), null).description('Of `granted`.'),
});
export type AnswerBody = Of<typeof AnswerBody>;

export const REQUEST_STATES = ['waiting', 'granted', 'refused', 'taken back', 'ended'] as const;
const person = shape({ id: text, name: text });
/** Who answers for something: owners, and who stands in for them. */
export const ANSWERERS = list(
  shape({
    id: text,
    name: text,
    group: flag,
    deputy: nullable(text).description('Who answers for them while they are away.'),
  }),
).description('Owners who answer it; empty: policy administrators do.');

export const RequestAnswer = shape({
  id: text,
  number: whole.description('By which people name it.'),
  state: oneOf(REQUEST_STATES).description(
    '`ended`: what was granted is over, by its day, by hand, or since its policy is gone.',
  ),
  person: shape({ id: text, name: text, job: text }),
  mine: flag,
  purpose: text,
  note: text,
  columns: nullable(list(text)),
  until: nullable(moment),
  askedAt: moment,
  assets: list(shape({ id: text, kind: assetKind, path: text, source: text, granted: flag })).description(
    'As far as you may see them.',
  ),
  hidden: whole.description('How many more it names.'),
  answerers: ANSWERERS,
  mayAnswer: flag,
  whyNot: nullable(text).description('Why you may not answer it, where you see it as somebody who could.'),
  answeredAt: nullable(moment),
  answeredBy: nullable(text),
  answeredFor: nullable(text).description('The one who was away, where a deputy answered.'),
  answer: nullable(text),
  granted: nullable(GrantBody),
  lastUsed: nullable(moment).description(
    'When they last asked for some of it through the gateway, as far as that is kept.',
  ),
  version: whole,
});
export type RequestAnswer = Of<typeof RequestAnswer>;

export const GrantEffect = shape({
  tables: list(
    shape({
      tableId: text,
      table: text,
      columns: list(text).description('Their names.'),
      before: shape({ plain: whole, masked: whole }).description('Columns that they read now, without the answer.'),
      after: shape({ plain: whole, masked: whole }),
      sensitive: whole.description('Guarded or sealed columns that they would read as they are, and do not now.'),
      limited: flag.description('Whether rows are kept from them.'),
    }),
  ).description('At most 500, the most sensitive first.'),
  total: whole,
  gains: whole.description('Columns that they would read, and do not now.'),
  sensitive: whole,
  rows: list(
    shape({
      personId: text,
      person: text,
      table: text,
      column: text,
      level: nullable(whole),
      before: access,
      after: access,
      beforeMask: nullable(mask),
      afterMask: nullable(mask),
    }),
  ).description('Columns that they would read otherwise, the most sensitive first; at most 300.'),
  kept: list(shape({ policy: text, columns: whole })).description(
    'Policies that keep columns from them all the same: these stay refused.',
  ),
});
export type GrantEffect = Of<typeof GrantEffect>;

const WHO_ANSWERS = {
  words: 'owner of all that it names, their deputy, or policy administrator in its domains',
} as const;
/** Which requests are listed. */
export const WHICH_REQUESTS = ['own', 'waiting', 'answered', 'granted'] as const;

export const requestEndpoints = {
  requests: endpoint({
    id: 'accessRequests',
    method: 'get',
    path: '/access/requests',
    area: 'access',
    summary: 'Requests for access: your own, and those that you may answer',
    may: 'signed in',
    query: shape({
      which: withDefault(oneOf(WHICH_REQUESTS), 'own').description(
        '`own`: that you made. Of those that you may answer: `waiting`; `answered`; `granted`: what is in force.',
      ),
      asset: optional(id).description('Only those that name this asset.'),
      unusedFor: optional(Joi.number().integer().min(1).max(3650)).description(
        'Of `granted` and `own`: in force, and not used for so many days.',
      ),
      endingWithin: optional(Joi.number().integer().min(1).max(3650)).description(
        'Of `granted` and `own`: in force, and ending within so many days.',
      ),
      below: optional(Joi.number().integer().min(1).max(2_147_483_647)).description(
        'Only those of lower numbers: for the next page.',
      ),
      limit: withDefault(Joi.number().integer().min(1).max(200), 50),
    }),
    answer: shape({ items: list(RequestAnswer), total: whole }),
    answers: 'The newest first; what waits: the oldest first.',
  }),
  request: endpoint({
    id: 'accessRequest',
    method: 'get',
    path: '/access/requests/:id',
    area: 'access',
    summary: 'A request for access',
    may: 'signed in',
    params: idParam,
    answer: RequestAnswer,
    answers: 'The request.',
  }),
  precedents: endpoint({
    id: 'precedentsOfRequest',
    method: 'get',
    path: '/access/requests/:id/precedents',
    area: 'access',
    summary: 'How requests like it were answered',
    may: 'signed in',
    params: idParam,
    answer: list(RequestAnswer),
    answers:
      'Answered requests for the same assets or their neighbours, and of the same person, that you may see; at most 10, the nearest first.',
  }),
  ask: endpoint({
    id: 'askForAccess',
    method: 'post',
    path: '/access/requests',
    area: 'access',
    summary: 'Ask for access',
    may: 'signed in',
    body: AskBody,
    problems: ['not-found', 'asked-already', 'too-much-at-once'],
    answer: list(RequestAnswer),
    answers: 'A request for each who answers.',
  }),
  grantEffect: endpoint({
    id: 'effectOfGrant',
    method: 'post',
    path: '/access/requests/:id/effect',
    area: 'access',
    summary: 'What granting a request would open',
    may: WHO_ANSWERS,
    params: idParam,
    body: GrantBody,
    heavy: true,
    answer: GrantEffect,
    answers: 'What the person would read; nothing is saved.',
  }),
  answerRequest: endpoint({
    id: 'answerRequest',
    method: 'post',
    path: '/access/requests/:id/answer',
    area: 'access',
    summary: 'Answer a request, answer it anew, or end what was granted',
    may: { words: 'whoever may answer it; to end it, also the one who asked' },
    params: idParam,
    body: AnswerBody,
    versioned: true,
    answer: RequestAnswer,
    answers: 'The request as it is now. What is granted is a policy that carries the request.',
  }),
  takeBack: endpoint({
    id: 'takeRequestBack',
    method: 'delete',
    path: '/access/requests/:id',
    area: 'access',
    summary: 'Take a request of yours back that waits',
    may: { words: 'the one who asked' },
    params: idParam,
    problems: ['settled-already'],
    answers: 'Nothing.',
  }),
  seenRequest: endpoint({
    id: 'seeAnswerToRequest',
    method: 'put',
    path: '/access/requests/:id/seen',
    area: 'access',
    summary: 'Take the answer to a request of yours, or its coming end, off your worklist, or put it back',
    may: { words: 'the one who asked' },
    params: idParam,
    body: shape({ what: oneOf(['answered', 'ending']), seen: Joi.boolean() }),
    answers: 'Nothing.',
  }),
  deputy: endpoint({
    id: 'deputy',
    method: 'get',
    path: '/people/:id/deputy',
    area: 'access',
    summary: 'Who answers requests for somebody while they are away',
    may: { words: 'the person, or administrator everywhere' },
    params: idParam,
    answer: shape({
      deputy: nullable(person),
      from: nullable(moment),
      until: nullable(moment),
      standsInFor: list(shape({ name: text, until: moment })).description('For whom the person answers now or soon.'),
      version: whole,
    }),
    answers: 'Nulls where nobody does; the version is 0 where nobody ever did.',
  }),
  changeDeputy: endpoint({
    id: 'changeDeputy',
    method: 'put',
    path: '/people/:id/deputy',
    area: 'access',
    summary: 'Say who answers requests for somebody while they are away',
    may: { words: 'the person, or administrator everywhere' },
    params: idParam,
    body: shape({ deputyId: nullable(id), from: nullable(moment), until: nullable(moment) }),
    versioned: true,
    answers: 'Nothing.',
  }),
};
