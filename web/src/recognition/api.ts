import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { recognitionEndpoints } from '@idrel/contract/recognition';
import { api } from '../app/api.ts';

type Recognition = typeof recognitionEndpoints;
export type Decision = Input<Recognition['decide']>['body']['decisions'][number];
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
  }),
});
export const {
  useAlikeQuery,
  useFindingsQuery,
  useDecideMutation,
  useDetectorSetsQuery,
  useDetectorsQuery,
  useRemoveDetectorSetMutation,
  useSaveDetectorSetMutation,
} = recognitionApi;
