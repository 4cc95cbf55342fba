import type { NoticeBody, noticeEndpoints } from '@idrel/contract/curation';
import type { AnswerOf } from '@idrel/contract/http';
import { call } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Notices = typeof noticeEndpoints;
/** A notice stands wherever its asset does: in lists, trees, pictures, and on pages of what is made from it. */
const EVERYWHERE = ['Asset'] as const;

const noticesApi = api.injectEndpoints({
  endpoints: (build) => ({
    notices: build.query<AnswerOf<Notices['list']>, string>({
      query: (id) => call<Notices['list']>('get', '/assets/:id/notices', { params: { id } }),
      providesTags: (_answer, _error, id) => [
        { type: 'Asset', id },
        { type: 'Asset', id: 'notices' },
      ],
    }),
    saveNotice: build.mutation<
      AnswerOf<Notices['change']>,
      { assetId: string; id: string | null; version: number; body: NoticeBody }
    >({
      query: ({ assetId, id, version, body }) =>
        id
          ? call<Notices['change']>('put', '/notices/:id', { params: { id }, version, body })
          : call<Notices['create']>('post', '/assets/:id/notices', { params: { id: assetId }, body }),
      invalidatesTags: EVERYWHERE,
    }),
    removeNotice: build.mutation<void, string>({
      query: (id) => call<Notices['remove']>('delete', '/notices/:id', { params: { id } }),
      invalidatesTags: EVERYWHERE,
    }),
    bringBackNotice: build.mutation<AnswerOf<Notices['bringBack']>, string>({
      query: (id) => call<Notices['bringBack']>('post', '/notices/:id/bring-back', { params: { id } }),
      invalidatesTags: EVERYWHERE,
    }),
  }),
});
export const { useNoticesQuery, useSaveNoticeMutation, useRemoveNoticeMutation, useBringBackNoticeMutation } =
  noticesApi;
