import {
  endpoint,
  free,
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
  withDefault,
} from '../http/index.ts';

/** A change of meaning, as CloudEvents 1.0 writes one in JSON. */
export const CloudEvent = shape({
  specversion: oneOf(['1.0']),
  id: text.description('That of the entry in the journal; the same however often it is sent.'),
  source: text.description('Where this Idrel is reached.'),
  type: text.description('What was changed and how, like `idrel.table.edited`.'),
  subject: text.description('What was changed: its kind and its id.'),
  time: moment,
  datacontenttype: oneOf(['application/json']),
  sequence: text.description('Its place among all events: later ones are greater, also as texts.'),
  data: shape({
    action: text,
    kind: text,
    id: text,
    name: text,
    domain: nullable(text),
    by: nullable(text),
    byKey: nullable(text),
    before: nullable(free()).description('What was other before, of what changed.'),
    after: nullable(free()),
  }),
});
export type CloudEvent = Of<typeof CloudEvent>;

const which = {
  after: withDefault(Joi.number().integer().min(0).max(Number.MAX_SAFE_INTEGER), 0).description(
    'The place behind which to begin: what `next` said last; 0: with the oldest that is kept.',
  ),
  kind: optional(Joi.string().max(60)).description('Only of what is of this kind: table, column, term, policy …'),
  domain: optional(Joi.string().guid()).description('Only of what lies in this domain or below it.'),
  subject: optional(Joi.string().max(200)).description('Only of the thing of this id.'),
  filter: optional(Joi.string().trim().min(1).max(2000)).description('Only of assets that this search finds now.'),
};
export const eventEndpoints = {
  list: endpoint({
    id: 'events',
    method: 'get',
    path: '/events',
    area: 'exchange',
    summary: 'What changed, in order, from any point on',
    may: 'signed in',
    query: shape({ ...which, limit: withDefault(Joi.number().integer().min(1).max(1000), 200) }),
    problems: ['events-forgotten'],
    answer: shape({
      events: list(CloudEvent),
      next: number.description('Ask on with this as `after`, also where nothing came.'),
      last: number.description('The place of the last event that there is: where `next` is this, all was told.'),
    }),
    answers: 'Events of what you may see, as they are kept for 90 days, each once and always in the same order.',
  }),
  stream: endpoint({
    id: 'eventStream',
    method: 'get',
    path: '/events/stream',
    area: 'exchange',
    summary: 'Follow what changes',
    may: 'signed in',
    query: shape(which),
    problems: ['events-forgotten', 'too-many-streams'],
    stream: 'events',
    answers:
      'The same as Server-Sent Events as they come, with their places as ids: whoever connects again with `Last-Event-ID` goes on there. It ends when the session or the key ends.',
  }),
};
