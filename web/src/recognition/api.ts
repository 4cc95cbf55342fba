import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { recognitionEndpoints } from '@idrel/contract/recognition';
import type { planEndpoints } from '@idrel/contract/scanning';
import type { worklistEndpoints } from '@idrel/contract/worklist';
import { api, MARKS } from '../app/api.ts';

export interface Decision {
  assetId: string;
  classKey: string;
  decision: 'confirmed' | 'dismissed' | 'open';
  reason?: string;
  /** A dismissal: holds for every column of the name, now and later. */
  remember?: boolean;
}
type Recognition = typeof recognitionEndpoints;
type Worklist = typeof worklistEndpoints;
type LeaveOut = (typeof planEndpoints)['leaveOut'];
type Set = Input<Recognition['addSet']>['body'];

const recognitionApi = api.injectEndpoints({
  endpoints: (build) => ({
    findings: build.query<AnswerOf<Recognition['findings']>, Input<Recognition['findings']>['query']>({
      query: (query) => call<Recognition['findings']>('get', '/findings', { query }),
      providesTags: ['Finding'],
    }),
    alike: build.query<AnswerOf<Recognition['alike']>, Input<Recognition['alike']>['query']>({
      query: (query) => call<Recognition['alike']>('get', '/findings/alike', { query }),
      providesTags: ['Finding'],
    }),
    decide: build.mutation<AnswerOf<Recognition['decide']>, Input<Recognition['decide']>['body']['decisions']>({
      query: (decisions) => call<Recognition['decide']>('post', '/findings/decisions', { body: { decisions } }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    detectors: build.query<AnswerOf<Recognition['detectors']>, void>({
      query: () => call<Recognition['detectors']>('get', '/detectors'),
      providesTags: ['Finding'],
    }),
    detectorSets: build.query<AnswerOf<Recognition['sets']>, void>({
      query: () => call<Recognition['sets']>('get', '/detector-sets'),
      providesTags: ['DetectorSet', 'Source'],
    }),
    saveDetectorSet: build.mutation<
      AnswerOf<Recognition['changeSet']>,
      { id: string | null; version: number; body: Set }
    >({
      query: ({ id, version, body }) =>
        id
          ? call<Recognition['changeSet']>('put', '/detector-sets/:id', { params: { id }, version, body })
          : call<Recognition['addSet']>('post', '/detector-sets', { body }),
      invalidatesTags: ['DetectorSet'],
    }),
    removeDetectorSet: build.mutation<void, string>({
      query: (id) => call<Recognition['removeSet']>('delete', '/detector-sets/:id', { params: { id } }),
      invalidatesTags: ['DetectorSet'],
    }),
    seeBreaking: build.mutation<void, { runId: string; seen: boolean }>({
      query: ({ runId, ...body }) =>
        call<Worklist['seen']>('put', '/runs/:id/breaking-seen', { params: { id: runId }, body }),
      invalidatesTags: ['Finding'],
    }),
    leaveOut: build.mutation<void, { planId: string } & Input<LeaveOut>['body']>({
      query: ({ planId, ...body }) => call<LeaveOut>('put', '/plans/:id/left-out', { params: { id: planId }, body }),
      invalidatesTags: ['Finding', 'Source'],
    }),
    worklist: build.query<AnswerOf<Worklist['list']>, Input<Worklist['list']>['query']>({
      query: (query) => call<Worklist['list']>('get', '/worklist', { query }),
      providesTags: ['Finding', MARKS],
    }),
  }),
});
export const {
  useAlikeQuery,
  useFindingsQuery,
  useDecideMutation,
  useDetectorSetsQuery,
  useDetectorsQuery,
  useLeaveOutMutation,
  useRemoveDetectorSetMutation,
  useSaveDetectorSetMutation,
  useSeeBreakingMutation,
  useWorklistQuery,
} = recognitionApi;
