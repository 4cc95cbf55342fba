import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { scanEndpoints } from '@idrel/contract/scanning';
import { api } from '../app/api.ts';

type Scans = typeof scanEndpoints;

const runsApi = api.injectEndpoints({
  endpoints: (build) => ({
    runs: build.query<AnswerOf<Scans['list']>, string>({
      query: (id) => call<Scans['list']>('get', '/sources/:id/runs', { params: { id } }),
      providesTags: (_answer, _error, id) => [{ type: 'Run', id: `of:${id}` }],
    }),
    startRun: build.mutation<AnswerOf<Scans['start']>, { id: string; sample: boolean }>({
      query: ({ id, ...body }) => call<Scans['start']>('post', '/sources/:id/runs', { params: { id }, body }),
      invalidatesTags: (_answer, _error, { id }) => [
        { type: 'Run', id: `of:${id}` },
        { type: 'Run', id: 'all' },
      ],
    }),
    run: build.query<AnswerOf<Scans['get']>, string>({
      query: (id) => call<Scans['get']>('get', '/runs/:id', { params: { id } }),
      providesTags: (_answer, _error, id) => [{ type: 'Run', id }],
    }),
    settleRename: build.mutation<
      AnswerOf<Scans['settleRename']>,
      { id: string } & Input<Scans['settleRename']>['body']
    >({
      query: ({ id, ...body }) => call<Scans['settleRename']>('post', '/runs/:id/renames', { params: { id }, body }),
      invalidatesTags: ['Run', 'Asset', 'Source'],
    }),
    cancelRun: build.mutation<AnswerOf<Scans['cancel']>, string>({
      query: (id) => call<Scans['cancel']>('post', '/runs/:id/cancel', { params: { id } }),
      invalidatesTags: (answer, _error, id) => [
        { type: 'Run', id },
        { type: 'Run', id: `of:${answer?.sourceId}` },
        { type: 'Run', id: 'all' },
      ],
    }),
    compareRuns: build.query<AnswerOf<Scans['compare']>, { id: string; with: string }>({
      query: ({ id, ...query }) => call<Scans['compare']>('get', '/runs/:id/comparison', { params: { id }, query }),
      providesTags: ['Run'],
    }),
    failedAgain: build.mutation<AnswerOf<Scans['again']>, string>({
      query: (id) => call<Scans['again']>('post', '/runs/:id/failed-again', { params: { id } }),
      invalidatesTags: (answer) => [
        { type: 'Run', id: `of:${answer?.sourceId}` },
        { type: 'Run', id: 'all' },
      ],
    }),
  }),
});
export const {
  useCancelRunMutation,
  useCompareRunsQuery,
  useFailedAgainMutation,
  useRunQuery,
  useRunsQuery,
  useSettleRenameMutation,
  useStartRunMutation,
} = runsApi;
