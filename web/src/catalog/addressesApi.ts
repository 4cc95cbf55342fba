import type { addressEndpoints, LinkBody } from '@idrel/contract/catalog';
import type { AnswerOf } from '@idrel/contract/http';
import { call } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Addresses = typeof addressEndpoints;

const addressesApi = api.injectEndpoints({
  endpoints: (build) => ({
    assetAt: build.query<AnswerOf<Addresses['at']>, string>({
      query: (address) => call<Addresses['at']>('get', '/asset-at', { query: { address } }),
      keepUnusedDataFor: 0,
    }),
    links: build.query<AnswerOf<Addresses['links']>, string>({
      query: (id) => call<Addresses['links']>('get', '/assets/:id/links', { params: { id } }),
      providesTags: ['Link'],
    }),
    linkPreviews: build.query<AnswerOf<Addresses['linkPreviews']>, string>({
      query: (id) => call<Addresses['linkPreviews']>('get', '/assets/:id/link-previews', { params: { id } }),
      providesTags: ['Link'],
    }),
    saveLink: build.mutation<
      AnswerOf<Addresses['changeLink']>,
      { assetId: string; id: string | null; version: number; body: LinkBody }
    >({
      query: ({ assetId, id, version, body }) =>
        id
          ? call<Addresses['changeLink']>('put', '/links/:id', { params: { id }, version, body })
          : call<Addresses['addLink']>('post', '/assets/:id/links', { params: { id: assetId }, body }),
      invalidatesTags: ['Link'],
    }),
    removeLink: build.mutation<void, string>({
      query: (id) => call<Addresses['removeLink']>('delete', '/links/:id', { params: { id } }),
      invalidatesTags: ['Link'],
    }),
    bringBackLink: build.mutation<AnswerOf<Addresses['bringBackLink']>, string>({
      query: (id) => call<Addresses['bringBackLink']>('post', '/links/:id/bring-back', { params: { id } }),
      invalidatesTags: ['Link'],
    }),
  }),
});
export const {
  useAssetAtQuery,
  useLinksQuery,
  useLinkPreviewsQuery,
  useSaveLinkMutation,
  useRemoveLinkMutation,
  useBringBackLinkMutation,
} = addressesApi;
