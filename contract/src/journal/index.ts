import {
  endpoint,
  free,
  Joi,
  list,
  moment,
  nullable,
  type Of,
  optional,
  shape,
  text,
  withDefault,
} from '../http/index.ts';

export const JournalEntry = shape({
  id: text,
  at: moment,
  person: nullable(text),
  byKey: nullable(text).description('The key by which a program did it for the person.'),
  action: text,
  subjectKind: text,
  subjectId: text,
  subject: text,
  before: nullable(free()),
  after: nullable(free()),
});
export type JournalEntry = Of<typeof JournalEntry>;

export const journalEndpoints = {
  list: endpoint({
    id: 'journal',
    method: 'get',
    path: '/journal',
    area: 'journal',
    summary: 'Who changed what, when, from what to what',
    may: 'signed in',
    query: shape({
      subject: optional(Joi.string().max(200)).description('Id or key of what was changed'),
      before: optional(Joi.number().integer().min(1)),
      limit: withDefault(Joi.number().integer().min(1).max(200), 50),
    }),
    answer: list(JournalEntry),
    answers: 'Entries of subjects you may see, newest first.',
  }),
};
