import type { searchEndpoints } from '@idrel/contract/catalog';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Searches = typeof searchEndpoints;
type Body = Input<Searches['create']>['body'];

const searchesApi = api.injectEndpoints({
  endpoints: (build) => ({
    searches: build.query<AnswerOf<Searches['list']>, void>({
      query: () => call<Searches['list']>('get', '/searches'),
      providesTags: ['Search'],
    }),
    saveSearch: build.mutation<AnswerOf<Searches['change']>, { id: string | null; version: number; body: Body }>({
      query: ({ id, version, body }) =>
        id
          ? call<Searches['change']>('put', '/searches/:id', { params: { id }, version, body })
          : call<Searches['create']>('post', '/searches', { body }),
      invalidatesTags: ['Search'],
    }),
    removeSearch: build.mutation<void, string>({
      query: (id) => call<Searches['remove']>('delete', '/searches/:id', { params: { id } }),
      invalidatesTags: ['Search'],
    }),
    bringBackSearch: build.mutation<AnswerOf<Searches['bringBack']>, string>({
      query: (id) => call<Searches['bringBack']>('post', '/searches/:id/bring-back', { params: { id } }),
      invalidatesTags: ['Search'],
    }),
    pinSearch: build.mutation<AnswerOf<Searches['pin']>, { id: string; pinned: boolean }>({
      query: ({ id, ...body }) => call<Searches['pin']>('put', '/searches/:id/pinned', { params: { id }, body }),
      invalidatesTags: ['Search'],
    }),
  }),
});
export const {
  useSearchesQuery,
  useSaveSearchMutation,
  useRemoveSearchMutation,
  useBringBackSearchMutation,
  usePinSearchMutation,
} = searchesApi;
