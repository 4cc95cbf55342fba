import type { tagEndpoints } from '@idrel/contract/curation';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Tags = typeof tagEndpoints;
type Body = Input<Tags['create']>['body'];

const tagsApi = api.injectEndpoints({
  endpoints: (build) => ({
    tags: build.query<AnswerOf<Tags['list']>, void>({
      query: () => call<Tags['list']>('get', '/tags'),
      providesTags: ['Tag', { type: 'Asset', id: 'figures' }],
    }),
    saveTag: build.mutation<AnswerOf<Tags['change']>, { id: string | null; version: number; body: Body }>({
      query: ({ id, version, body }) =>
        id
          ? call<Tags['change']>('put', '/tags/:id', { params: { id }, version, body })
          : call<Tags['create']>('post', '/tags', { body }),
      invalidatesTags: ['Tag', 'Asset'],
    }),
    removeTag: build.mutation<void, string>({
      query: (id) => call<Tags['remove']>('delete', '/tags/:id', { params: { id } }),
      invalidatesTags: ['Tag', 'Asset'],
    }),
    bringBackTag: build.mutation<AnswerOf<Tags['bringBack']>, string>({
      query: (id) => call<Tags['bringBack']>('post', '/tags/:id/bring-back', { params: { id } }),
      invalidatesTags: ['Tag', 'Asset'],
    }),
    tagTravel: build.query<AnswerOf<Tags['previewTravel']>, { id: string } & Input<Tags['previewTravel']>['body']>({
      query: ({ id, ...body }) =>
        call<Tags['previewTravel']>('post', '/tags/:id/travel-preview', { params: { id }, body }),
      providesTags: ['Tag', 'Asset'],
    }),
    refuseTag: build.mutation<AnswerOf<Tags['refuse']>, { id: string; tag: string; refused: boolean }>({
      query: ({ id, tag, refused }) =>
        call<Tags['refuse']>('put', '/assets/:id/arrived-tags/:tag', { params: { id, tag }, body: { refused } }),
      invalidatesTags: ['Tag', 'Asset'],
    }),
    tagMerge: build.query<AnswerOf<Tags['mergePreview']>, { id: string; into: string }>({
      query: ({ id, into }) =>
        call<Tags['mergePreview']>('get', '/tags/:id/merge', { params: { id }, query: { into } }),
      providesTags: ['Tag', { type: 'Asset', id: 'figures' }],
    }),
    mergeTag: build.mutation<AnswerOf<Tags['merge']>, { id: string; into: string; assets: number }>({
      query: ({ id, ...body }) => call<Tags['merge']>('post', '/tags/:id/merge', { params: { id }, body }),
      invalidatesTags: ['Tag', 'Asset'],
    }),
  }),
});
export const {
  useTagsQuery,
  useSaveTagMutation,
  useRemoveTagMutation,
  useBringBackTagMutation,
  useTagMergeQuery,
  useTagTravelQuery,
  useRefuseTagMutation,
  useMergeTagMutation,
} = tagsApi;
