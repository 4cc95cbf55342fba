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
  SCOPES,
  shape,
  text,
  withDefault,
} from '../http/index.ts';

export const ApiKey = shape({
  id: text,
  name: text,
  person: text.description('Whose rights it has, as far as it goes.'),
  mine: flag,
  scopes: list(oneOf(SCOPES)),
  domains: nullable(list(shape({ id: text, name: text }))).description('Null: wherever the person has rights.'),
  perMinute: number.description('So many calls a minute.'),
  madeAt: moment,
  endsAt: moment,
  usedAt: nullable(moment).description('When a program last called with it, to a minute.'),
  replaced: flag.description('Another key has taken its place; until it ends both hold.'),
});
export type ApiKey = Of<typeof ApiKey>;

export const ApiKeyBody = shape({
  name: Joi.string().trim().min(1).max(80).description('What it is for.'),
  scopes: list(oneOf(SCOPES)).min(1).unique(),
  domainIds: nullable(list(id).min(1).max(100).unique()).description(
    'Only in these domains and those below them; null: wherever you have rights.',
  ),
  days: withDefault(Joi.number().integer().min(1).max(366), 90).description('So long it holds.'),
  perMinute: withDefault(Joi.number().integer().min(1).max(6000), 600).description('So many calls a minute at most.'),
});
export type ApiKeyBody = Of<typeof ApiKeyBody>;

const made = shape({ id: text, key: text, endsAt: moment });
export const apiKeyEndpoints = {
  list: endpoint({
    id: 'apiKeys',
    method: 'get',
    path: '/api-keys',
    area: 'people',
    summary: 'Keys by which programs call this API as you',
    may: 'signed in',
    inSession: true,
    query: shape({
      all: withDefault(Joi.boolean(), false).description('Those of everybody, for administrators of everything.'),
    }),
    answer: list(ApiKey),
    answers: 'Keys that hold, the newest first.',
  }),
  make: endpoint({
    id: 'makeApiKey',
    method: 'post',
    path: '/api-keys',
    area: 'people',
    summary: 'Make a key for a program',
    may: 'signed in',
    inSession: true,
    body: ApiKeyBody,
    problems: ['too-many-keys', 'not-found'],
    answer: made,
    answers: 'The key, shown this once. Programs send it as `Authorization: Bearer …`.',
  }),
  rotate: endpoint({
    id: 'rotateApiKey',
    method: 'post',
    path: '/api-keys/:id/rotate',
    area: 'people',
    summary: 'Put another key in the place of one of yours',
    may: 'signed in',
    inSession: true,
    params: idParam,
    body: shape({
      hours: withDefault(Joi.number().integer().min(0).max(720), 24).description('So long the old one goes on.'),
    }),
    problems: ['too-many-keys'],
    answer: made,
    answers:
      'The new key, shown this once: with the same scopes and domains, holding as long as the old one did when it was made.',
  }),
  end: endpoint({
    id: 'endApiKey',
    method: 'delete',
    path: '/api-keys/:id',
    area: 'people',
    summary: 'End a key of yours, or as administrator of everything of anybody',
    may: 'signed in',
    inSession: true,
    params: idParam,
    answers: 'Nothing. It opens nothing any more from now on.',
  }),
};
