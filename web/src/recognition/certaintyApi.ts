import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { recognitionEndpoints } from '@idrel/contract/recognition';
import { api } from '../app/api.ts';

type Recognition = typeof recognitionEndpoints;
type BodyOf<K extends keyof Recognition> = Input<Recognition[K]> extends { readonly body: infer B } ? B : never;
/** What would be other than it is, for the preview of findings. */
export type CertaintyChange = BodyOf<'previewCertainty'>;

const certaintyApi = api.injectEndpoints({
  endpoints: (build) => ({
    certainty: build.query<AnswerOf<Recognition['certainty']>, void>({
      query: () => call<Recognition['certainty']>('get', '/certainty'),
      providesTags: ['Finding', 'DetectorSet'],
    }),
    certaintyPreview: build.query<AnswerOf<Recognition['previewCertainty']>, CertaintyChange>({
      query: (body) => call<Recognition['previewCertainty']>('post', '/certainty/preview', { body }),
      providesTags: ['Finding', 'DetectorSet'],
    }),
    saveThreshold: build.mutation<
      AnswerOf<Recognition['setThreshold']>,
      { classKey: string; version: number; body: BodyOf<'setThreshold'> }
    >({
      query: ({ classKey, ...input }) =>
        call<Recognition['setThreshold']>('put', '/certainty/thresholds/:key', { params: { key: classKey }, ...input }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    removeThreshold: build.mutation<void, string>({
      query: (key) => call<Recognition['removeThreshold']>('delete', '/certainty/thresholds/:key', { params: { key } }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    saveCertaintyRule: build.mutation<
      AnswerOf<Recognition['changeCertaintyRule']>,
      { id: string | null; version: number; body: BodyOf<'addCertaintyRule'> }
    >({
      query: ({ id, version, body }) =>
        id
          ? call<Recognition['changeCertaintyRule']>('put', '/certainty/rules/:id', { params: { id }, version, body })
          : call<Recognition['addCertaintyRule']>('post', '/certainty/rules', { body }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    removeCertaintyRule: build.mutation<void, string>({
      query: (id) => call<Recognition['removeCertaintyRule']>('delete', '/certainty/rules/:id', { params: { id } }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    forgetDismissal: build.mutation<void, string>({
      query: (id) => call<Recognition['forgetDismissal']>('delete', '/certainty/dismissals/:id', { params: { id } }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
  }),
});
export const {
  useCertaintyPreviewQuery,
  useCertaintyQuery,
  useForgetDismissalMutation,
  useRemoveCertaintyRuleMutation,
  useRemoveThresholdMutation,
  useSaveCertaintyRuleMutation,
  useSaveThresholdMutation,
} = certaintyApi;
