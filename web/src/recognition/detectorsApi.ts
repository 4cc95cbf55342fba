import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { recognitionEndpoints } from '@idrel/contract/recognition';
import { api } from '../app/api.ts';

type Recognition = typeof recognitionEndpoints;
type BodyOf<K extends keyof Recognition> = Input<Recognition[K]> extends { readonly body: infer B } ? B : never;

const detectorsApi = api.injectEndpoints({
  endpoints: (build) => ({
    ownDetector: build.query<AnswerOf<Recognition['own']>, string>({
      query: (id) => call<Recognition['own']>('get', '/own-detectors/:id', { params: { id } }),
      providesTags: ['DetectorSet'],
    }),
    saveOwn: build.mutation<
      AnswerOf<Recognition['changeOwn']>,
      { id: string | null; version: number; body: BodyOf<'addOwn'> }
    >({
      query: ({ id, version, body }) =>
        id
          ? call<Recognition['changeOwn']>('put', '/own-detectors/:id', { params: { id }, version, body })
          : call<Recognition['addOwn']>('post', '/own-detectors', { body }),
      invalidatesTags: ['DetectorSet', 'Finding'],
    }),
    removeOwn: build.mutation<void, string>({
      query: (id) => call<Recognition['removeOwn']>('delete', '/own-detectors/:id', { params: { id } }),
      invalidatesTags: ['DetectorSet', 'Finding', 'Asset'],
    }),
    switchDetectors: build.mutation<void, BodyOf<'switchOff'>>({
      query: (body) => call<Recognition['switchOff']>('put', '/detectors-off', { body }),
      invalidatesTags: ['DetectorSet', 'Finding'],
    }),
    exampleFile: build.mutation<AnswerOf<Recognition['exampleFile']>, BodyOf<'exampleFile'>>({
      query: (body) => call<Recognition['exampleFile']>('post', '/example-file', { body }),
    }),
    columnValues: build.mutation<AnswerOf<Recognition['columnValues']>, BodyOf<'columnValues'>>({
      query: (body) => call<Recognition['columnValues']>('post', '/column-values', { body }),
    }),
    switchEffect: build.query<AnswerOf<Recognition['switchEffect']>, readonly string[]>({
      query: (ids) =>
        call<Recognition['switchEffect']>('get', '/detectors-off/effect', { query: { ids: ids.join(',') } }),
      providesTags: ['Finding', 'DetectorSet'],
    }),
    startTrial: build.mutation<AnswerOf<Recognition['startTrial']>, BodyOf<'startTrial'>>({
      query: (body) => call<Recognition['startTrial']>('post', '/detector-trials', { body }),
    }),
    trial: build.query<AnswerOf<Recognition['trial']>, string>({
      query: (id) => call<Recognition['trial']>('get', '/detector-trials/:id', { params: { id } }),
    }),
    stopTrial: build.mutation<AnswerOf<Recognition['stopTrial']>, string>({
      query: (id) => call<Recognition['stopTrial']>('post', '/detector-trials/:id/stopped', { params: { id } }),
    }),
    importDetectors: build.mutation<AnswerOf<Recognition['imported']>, { file: BodyOf<'imported'>; preview: boolean }>({
      query: ({ file, preview }) =>
        call<Recognition['imported']>('post', '/detectors-file', { query: { preview }, body: file }),
      invalidatesTags: (_answer, _error, { preview }) => (preview ? [] : ['DetectorSet', 'Finding']),
    }),
  }),
});
export const {
  useOwnDetectorQuery,
  useSaveOwnMutation,
  useRemoveOwnMutation,
  useSwitchDetectorsMutation,
  useColumnValuesMutation,
  useExampleFileMutation,
  useSwitchEffectQuery,
  useStartTrialMutation,
  useTrialQuery,
  useStopTrialMutation,
  useImportDetectorsMutation,
} = detectorsApi;
