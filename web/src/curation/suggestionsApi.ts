import type { suggestionEndpoints } from '@idrel/contract/curation';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Suggestions = typeof suggestionEndpoints;

const suggestionsApi = api.injectEndpoints({
  endpoints: (build) => ({
    suggestions: build.query<AnswerOf<Suggestions['list']>, string>({
      query: (id) => call<Suggestions['list']>('get', '/assets/:id/suggestions', { params: { id } }),
      providesTags: (_answer, _error, id) => ['Suggestion', { type: 'Asset', id: `journal:${id}` }],
    }),
    takeSuggestions: build.mutation<AnswerOf<Suggestions['take']>, Input<Suggestions['take']>['body']>({
      query: (body) => call<Suggestions['take']>('post', '/suggestions/taken', { body }),
      invalidatesTags: ['Suggestion', 'Asset', 'Term'],
    }),
    refuseSuggestions: build.mutation<void, Input<Suggestions['refuse']>['body']>({
      query: (body) => call<Suggestions['refuse']>('post', '/suggestions/refused', { body }),
      invalidatesTags: ['Suggestion'],
    }),
  }),
});
export const { useSuggestionsQuery, useTakeSuggestionsMutation, useRefuseSuggestionsMutation } = suggestionsApi;
