import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { worklistEndpoints } from '@idrel/contract/worklist';
import { api, MARKS } from '../app/api.ts';

type Worklist = typeof worklistEndpoints;

const worklistApi = api.injectEndpoints({
  endpoints: (build) => ({
    worklist: build.query<AnswerOf<Worklist['list']>, Input<Worklist['list']>['query']>({
      query: (query) => call<Worklist['list']>('get', '/worklist', { query }),
      providesTags: ['Finding', 'Discussion', 'Request', 'Review', 'Routine', MARKS],
    }),
    seeBreaking: build.mutation<void, { runId: string; seen: boolean }>({
      query: ({ runId, ...body }) =>
        call<Worklist['seen']>('put', '/runs/:id/breaking-seen', { params: { id: runId }, body }),
      invalidatesTags: ['Finding'],
    }),
    seeBroken: build.mutation<void, { id: string } & Input<Worklist['brokenSeen']>['body']>({
      query: ({ id, ...body }) =>
        call<Worklist['brokenSeen']>('put', '/assets/:id/broken-seen', { params: { id }, body }),
      invalidatesTags: ['Finding'],
    }),
    seeFailed: build.mutation<void, { id: string; runId: string; seen: boolean }>({
      query: ({ id, ...body }) =>
        call<Worklist['failedSeen']>('put', '/assets/:id/failed-run-seen', { params: { id }, body }),
      invalidatesTags: ['Finding'],
    }),
  }),
});
export const { useSeeBreakingMutation, useSeeBrokenMutation, useSeeFailedMutation, useWorklistQuery } = worklistApi;
