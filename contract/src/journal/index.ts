import { endpoint } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

export interface JournalEntry {
  readonly id: string;
  readonly at: string;
  readonly person: string | null;
  readonly action: string;
  readonly subjectKind: string;
  readonly subjectId: string;
  readonly subject: string;
  readonly before: Record<string, unknown> | null;
  readonly after: Record<string, unknown> | null;
}

export const journalEndpoints = {
  list: endpoint({
    id: 'journal',
    method: 'get',
    path: '/journal',
    area: 'journal',
    summary: 'Who changed what, when, from what to what',
    query: Joi.object({
      subject: Joi.string().max(200).description('Id or key of what was changed'),
      before: Joi.number().integer().min(1),
      limit: Joi.number().integer().min(1).max(200).default(50),
    }),
    answers: 'Entries of subjects you may see, newest first.',
  }),
};
