import type { BulkEditAnswer, manyEndpoints } from '@idrel/contract/curation';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Many = typeof manyEndpoints;

const manyApi = api.injectEndpoints({
  endpoints: (build) => ({
    prepareBulkEdit: build.mutation<AnswerOf<Many['prepare']>, Input<Many['prepare']>['body']>({
      query: (body) => call<Many['prepare']>('post', '/bulk-edits', { body }),
    }),
    bulkEdits: build.query<AnswerOf<Many['mine']>, void>({
      query: () => call<Many['mine']>('get', '/bulk-edits'),
      providesTags: ['Many'],
    }),
    startBulkEdit: build.mutation<AnswerOf<Many['start']>, string>({
      query: (id) => call<Many['start']>('post', '/bulk-edits/:id/start', { params: { id } }),
      invalidatesTags: ['Many'],
    }),
    cancelBulkEdit: build.mutation<AnswerOf<Many['cancel']>, string>({
      query: (id) => call<Many['cancel']>('post', '/bulk-edits/:id/cancel', { params: { id } }),
      invalidatesTags: ['Many'],
    }),
    undoBulkEdit: build.mutation<AnswerOf<Many['undo']>, string>({
      query: (id) => call<Many['undo']>('post', '/bulk-edits/:id/undo', { params: { id } }),
      invalidatesTags: ['Many'],
    }),
  }),
});
export const {
  usePrepareBulkEditMutation,
  useBulkEditsQuery,
  useStartBulkEditMutation,
  useCancelBulkEditMutation,
  useUndoBulkEditMutation,
} = manyApi;

/** Whether a worker is at it. */
export const isUnderWay = ({ state }: Pick<BulkEditAnswer, 'state'>): boolean =>
  state === 'waiting' || state === 'running' || state === 'undoing';
