import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { recognitionEndpoints } from '@idrel/contract/recognition';
import { api } from '../app/api.ts';

type Recognition = typeof recognitionEndpoints;
type BodyOf<K extends keyof Recognition> = Input<Recognition[K]> extends { readonly body: infer B } ? B : never;

const classesApi = api.injectEndpoints({
  endpoints: (build) => ({
    classes: build.query<AnswerOf<Recognition['classes']>, void>({
      query: () => call<Recognition['classes']>('get', '/classes', { query: {} }),
      providesTags: ['Finding', 'DetectorSet'],
    }),
    /** With how many columns carry each, which is counted anew each time. */
    countedClasses: build.query<AnswerOf<Recognition['classes']>, void>({
      query: () => call<Recognition['classes']>('get', '/classes', { query: { counted: true } }),
      providesTags: ['Finding', 'DetectorSet'],
    }),
    arrivals: build.query<AnswerOf<Recognition['arrivals']>, string>({
      query: (id) => call<Recognition['arrivals']>('get', '/assets/:id/arrivals', { params: { id } }),
      providesTags: ['Finding', 'Run', 'Asset'],
    }),
    travelPreview: build.query<
      AnswerOf<Recognition['previewTravel']>,
      { key: string; travels: BodyOf<'previewTravel'>['travels'] }
    >({
      query: ({ key, travels }) =>
        call<Recognition['previewTravel']>('post', '/classes/:key/travel-preview', {
          params: { key },
          body: { travels },
        }),
      providesTags: ['Finding', 'Asset'],
    }),
    saveClass: build.mutation<
      AnswerOf<Recognition['changeClass']>,
      { key: string | null; version: number; body: BodyOf<'addClass'> }
    >({
      query: ({ key, version, body }) =>
        key
          ? call<Recognition['changeClass']>('put', '/classes/:key', { params: { key }, version, body })
          : call<Recognition['addClass']>('post', '/classes', { body }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    carriers: build.query<AnswerOf<Recognition['carriers']>, string>({
      query: (key) => call<Recognition['carriers']>('get', '/classes/:key/carriers', { params: { key } }),
      providesTags: ['Finding'],
    }),
    removeClass: build.mutation<void, { key: string; columns: number }>({
      query: ({ key, ...query }) =>
        call<Recognition['removeClass']>('delete', '/classes/:key', { params: { key }, query }),
      invalidatesTags: ['Finding', 'Asset', 'DetectorSet'],
    }),
    restoreClass: build.mutation<AnswerOf<Recognition['restoreClass']>, string>({
      query: (key) => call<Recognition['restoreClass']>('post', '/classes/:key/restored', { params: { key } }),
      invalidatesTags: ['Finding', 'DetectorSet'],
    }),
  }),
});
export const {
  useClassesQuery,
  useArrivalsQuery,
  useCountedClassesQuery,
  useTravelPreviewQuery,
  useSaveClassMutation,
  useCarriersQuery,
  useRemoveClassMutation,
  useRestoreClassMutation,
} = classesApi;
