import {
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
  role,
  shape,
  text,
  whole,
  withDefault,
} from '../http/index.ts';

/** `well`: what is sent is taken; `unwell`: it is not, and is tried again; `off`: nothing is sent. */
const WEBHOOK_STATES = ['well', 'unwell', 'off'] as const;

const most = Number.MAX_SAFE_INTEGER;

export const WebhookBody = shape({
  name: Joi.string().trim().min(1).max(80).description('What it is for.'),
  address: Joi.string()
    .trim()
    .max(2000)
    .uri({ scheme: ['http', 'https'] })
    .description('Where events are sent: https, or http within networks that the operator has listed.'),
  kinds: list(Joi.string().max(60)).max(60).unique().description('Only of what is of these kinds; empty: of all.'),
  domainId: nullable(id).description('Only of what lies in this domain or below it.'),
  filter: nullable(Joi.string().trim().min(1).max(2000)).description('Only of assets that this search finds then.'),
  enabled: flag,
});
export type WebhookBody = Of<typeof WebhookBody>;

export const Webhook = shape({
  id: text,
  name: text,
  address: text.description('Without its path for who asks by a key: some hold a secret in it.'),
  kinds: list(text),
  domainId: nullable(text),
  domain: nullable(text).description('Its name; null also where it is gone: then nothing is sent.'),
  filter: nullable(text),
  enabled: flag,
  person: nullable(text).description('Who answers for it, as they saved it last: what they may see is sent.'),
  state: oneOf(WEBHOOK_STATES),
  why: nullable(text).description('What is wrong, where something is.'),
  since: nullable(moment).description('Since when it is unwell.'),
  after: number.description('The place up to which it was told.'),
  behind: whole.description('So many events lie behind that, of any kind.'),
  sent: number.description('So many were taken.'),
  sentAt: nullable(moment),
  waiting: whole.description('So many were not taken, and are sent again.'),
  dead: whole.description('So many were not taken and are not sent again by themselves.'),
  version: number,
});
export type Webhook = Of<typeof Webhook>;

export const WebhookMessage = shape({
  id: text,
  place: number,
  type: text,
  subject: text,
  tries: whole,
  lastAt: nullable(moment),
  nextAt: nullable(moment).description('Null: not by itself.'),
  problem: nullable(text),
});
export type WebhookMessage = Of<typeof WebhookMessage>;

const administrator = role(
  'administrator',
  'any domain',
  'of their own; those of everybody for administrators of everything',
);
const secret = text.description(
  'The secret by which messages are signed (HMAC-SHA256, as Standard Webhooks says), told this once.',
);

export const webhookEndpoints = {
  list: endpoint({
    id: 'webhooks',
    method: 'get',
    path: '/webhooks',
    area: 'exchange',
    summary: 'Where events are sent, and how that goes',
    may: administrator,
    answer: list(Webhook),
    answers: 'Yours, or as administrator of everything those of everybody, by name.',
  }),
  make: endpoint({
    id: 'makeWebhook',
    method: 'post',
    path: '/webhooks',
    area: 'exchange',
    summary: 'Have events sent to an address',
    may: administrator,
    body: WebhookBody,
    problems: ['not-found', 'name-taken'],
    showsSecret: true,
    answer: shape({ webhook: Webhook, secret }),
    answers:
      'The webhook, with its secret. What changes from now on is sent, as you may see it: one CloudEvent a message, those of one thing in order, at least once.',
  }),
  change: endpoint({
    id: 'changeWebhook',
    method: 'put',
    path: '/webhooks/:id',
    area: 'exchange',
    summary: 'Change a webhook, turn it off or on',
    may: administrator,
    params: idParam,
    versioned: true,
    body: WebhookBody,
    problems: ['name-taken'],
    answer: Webhook,
    answers: 'The webhook. From now on what you may see is sent.',
  }),
  remove: endpoint({
    id: 'removeWebhook',
    method: 'delete',
    path: '/webhooks/:id',
    area: 'exchange',
    summary: 'Remove a webhook',
    may: administrator,
    params: idParam,
    answers: 'Nothing. What was not taken is forgotten with it.',
  }),
  secret: endpoint({
    id: 'renewWebhookSecret',
    method: 'post',
    path: '/webhooks/:id/secret',
    area: 'exchange',
    summary: 'Put another secret in the place of that of a webhook',
    may: administrator,
    params: idParam,
    body: shape({
      hours: withDefault(Joi.number().integer().min(0).max(720), 24).description(
        'So long messages are signed by the old one, too.',
      ),
    }),
    showsSecret: true,
    answer: shape({ secret }),
    answers: 'The new secret.',
  }),
  try: endpoint({
    id: 'tryWebhook',
    method: 'post',
    path: '/webhooks/:id/try',
    area: 'exchange',
    summary: 'Send a message that tells of no change',
    may: administrator,
    params: idParam,
    problems: ['secret-unreadable'],
    answer: shape({
      taken: flag,
      status: nullable(whole).description('What the address answered.'),
      problem: nullable(text),
      ms: whole.description('How long that took.'),
    }),
    answers: 'What came of it. The type of the message is `idrel.webhook.tried`.',
  }),
  messages: endpoint({
    id: 'webhookMessages',
    method: 'get',
    path: '/webhooks/:id/messages',
    area: 'exchange',
    summary: 'What an address did not take',
    may: administrator,
    params: idParam,
    query: shape({
      dead: withDefault(Joi.boolean(), true).description('What is not sent again by itself; false: what waits for it.'),
      after: withDefault(Joi.number().integer().min(0).max(most), 0).description('Those behind this place.'),
      limit: withDefault(Joi.number().integer().min(1).max(200), 50),
    }),
    answer: list(WebhookMessage),
    answers: 'Those, the oldest first. They are kept as long as the events are.',
  }),
  again: endpoint({
    id: 'sendWebhookAgain',
    method: 'post',
    path: '/webhooks/:id/again',
    area: 'exchange',
    summary: 'Send again what was not taken',
    may: administrator,
    params: idParam,
    body: shape({
      messages: nullable(list(id).min(1).max(1000).unique()).description('These; null: all that are dead.'),
    }),
    answer: shape({ messages: whole }),
    answers: 'How many are sent again, by the same ids as before.',
  }),
  from: endpoint({
    id: 'sendWebhookFrom',
    method: 'post',
    path: '/webhooks/:id/from',
    area: 'exchange',
    summary: 'Have a webhook begin at another place',
    may: administrator,
    params: idParam,
    body: shape({ after: Joi.number().integer().min(0).max(most).required() }),
    problems: ['events-forgotten'],
    answer: Webhook,
    answers: 'The webhook. What lies behind the place is sent, also where it was before, by the same ids.',
  }),
};
