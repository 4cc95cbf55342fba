import type { standingEndpoints } from '@idrel/contract/curation';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Standing = typeof standingEndpoints;
type Change = Input<Standing['changeChecklist']>;

const standingApi = api.injectEndpoints({
  endpoints: (build) => ({
    standing: build.query<AnswerOf<Standing['standing']>, string>({
      query: (id) => call<Standing['standing']>('get', '/assets/:id/standing', { params: { id } }),
      // What stands of it follows from the asset, its columns and their findings.
      providesTags: (_answer, _error, id) => [{ type: 'Asset', id }, { type: 'Asset', id: 'figures' }, 'Finding'],
    }),
    noteLapse: build.mutation<void, { id: string; noted: boolean }>({
      query: ({ id, noted }) =>
        call<Standing['noted']>('put', '/assets/:id/lapse-noted', { params: { id }, body: { noted } }),
      invalidatesTags: [{ type: 'Asset', id: 'figures' }],
    }),
    checklists: build.query<AnswerOf<Standing['checklists']>, void>({
      query: () => call<Standing['checklists']>('get', '/checklists'),
      providesTags: [{ type: 'Asset', id: 'checklists' }],
    }),
    changeChecklist: build.mutation<
      AnswerOf<Standing['changeChecklist']>,
      { kind: Change['params']['kind']; version: number; body: Change['body'] }
    >({
      query: ({ kind, version, body }) =>
        call<Standing['changeChecklist']>('put', '/checklists/:kind', { params: { kind }, version, body }),
      invalidatesTags: ['Asset'],
    }),
  }),
});
export const { useStandingQuery, useNoteLapseMutation, useChecklistsQuery, useChangeChecklistMutation } = standingApi;
