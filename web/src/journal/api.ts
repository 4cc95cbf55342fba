import type { AnswerOf } from '@idrel/contract/http';
import { call } from '@idrel/contract/http/address';
import type { journalEndpoints } from '@idrel/contract/journal';
import { api } from '../app/api.ts';

type Journal = (typeof journalEndpoints)['list'];

export const journalApi = api.injectEndpoints({
  endpoints: (build) => ({
    journal: build.query<AnswerOf<Journal>, string | undefined>({
      query: (subject) => call<Journal>('get', '/journal', { query: subject ? { subject } : {} }),
      providesTags: (_answer, _error, subject) => [
        { type: 'Asset', id: `journal:${subject ?? 'all'}` },
        'Term',
        'Policy',
        'Finding',
        'Source',
        'Guide',
        'Discussion',
        'Link',
        'Domain',
        'Person',
      ],
    }),
  }),
});
export const { useJournalQuery } = journalApi;
