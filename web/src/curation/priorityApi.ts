import type { priorityEndpoints } from '@idrel/contract/curation';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Rules = typeof priorityEndpoints;

const priorityApi = api.injectEndpoints({
  endpoints: (build) => ({
    priorityRules: build.query<AnswerOf<Rules['list']>, void>({
      query: () => call<Rules['list']>('get', '/priority-rules'),
      providesTags: [{ type: 'Asset', id: 'priority' }],
    }),
    savePriorityRule: build.mutation<
      AnswerOf<Rules['change']>,
      { id: string | null; version: number; body: Input<Rules['create']>['body'] }
    >({
      query: ({ id, version, body }) =>
        id
          ? call<Rules['change']>('put', '/priority-rules/:id', { params: { id }, version, body })
          : call<Rules['create']>('post', '/priority-rules', { body }),
      invalidatesTags: ['Asset'],
    }),
    removePriorityRule: build.mutation<void, string>({
      query: (id) => call<Rules['remove']>('delete', '/priority-rules/:id', { params: { id } }),
      invalidatesTags: ['Asset'],
    }),
    previewPriorityRule: build.query<AnswerOf<Rules['preview']>, Input<Rules['preview']>['body']>({
      query: (body) => call<Rules['preview']>('post', '/priority-rules/preview', { body }),
      keepUnusedDataFor: 0,
    }),
  }),
});
export const {
  usePriorityRulesQuery,
  useSavePriorityRuleMutation,
  useRemovePriorityRuleMutation,
  usePreviewPriorityRuleQuery,
} = priorityApi;
