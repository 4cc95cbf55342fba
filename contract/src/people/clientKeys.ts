import {
  endpoint,
  idParam,
  Joi,
  list,
  moment,
  nullable,
  number,
  type Of,
  shape,
  text,
  withDefault,
} from '../http/index.ts';

export const ClientKey = shape({
  id: text,
  name: text,
  madeAt: moment,
  endsAt: moment,
  usedAt: nullable(moment).description('When a program last signed in with it, to a minute.'),
});
export type ClientKey = Of<typeof ClientKey>;

export const ClientKeys = shape({
  items: list(ClientKey),
  user: text.description('Who programs say they are: your e-mail address.'),
  port: nullable(number).description('Where programs connect; null: this server takes none.'),
  encrypted: nullable(text).description(
    'What programs are told about encryption: `require`, or null where none is offered.',
  ),
});
export type ClientKeys = Of<typeof ClientKeys>;

export const clientKeyEndpoints = {
  list: endpoint({
    id: 'clientKeys',
    inSession: true,
    method: 'get',
    path: '/client-keys',
    area: 'people',
    summary: 'Your keys for programs that read through the gateway',
    may: 'signed in',
    partners: true,
    answer: ClientKeys,
    answers: 'Keys that hold, the newest first, and how programs connect.',
  }),
  make: endpoint({
    id: 'makeClientKey',
    inSession: true,
    method: 'post',
    path: '/client-keys',
    area: 'people',
    summary: 'Make a key for a program of yours',
    may: 'signed in',
    partners: true,
    body: shape({
      name: Joi.string().trim().min(1).max(80).description('What it is for.'),
      days: withDefault(Joi.number().integer().min(1).max(366), 90).description('So long it holds.'),
    }),
    problems: ['too-many-keys'],
    answer: shape({ id: text, key: text, endsAt: moment }),
    answers: 'The key, shown this once.',
  }),
  end: endpoint({
    id: 'endClientKey',
    inSession: true,
    method: 'delete',
    path: '/client-keys/:id',
    area: 'people',
    summary: 'End a key of yours',
    may: 'signed in',
    partners: true,
    params: idParam,
    answers: 'Nothing. Whatever reads by it is ended too.',
  }),
};
