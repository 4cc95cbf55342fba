import type { AssetAnswer, AssetRow, Facet, ProfileAnswer, TreeNode } from '@idrel/contract/catalog';
import type { AssetChange } from '@idrel/contract/curation';
import type { Page } from '@idrel/contract/http';
import type { JournalEntry } from '@idrel/contract/journal';
import { api } from '../app/api.ts';

export interface AssetQuery {
  filter: string;
  under?: string;
  sort?: string;
  descending?: boolean;
  limit?: number;
}
const PAGE = 200;

const catalogApi = api.injectEndpoints({
  endpoints: (build) => ({
    assets: build.query<Page<AssetRow>, AssetQuery>({
      query: (params) => ({ url: '/assets', params }),
      providesTags: ['Asset'],
    }),
    assetPages: build.infiniteQuery<Page<AssetRow>, AssetQuery, number>({
      infiniteQueryOptions: {
        initialPageParam: 0,
        getNextPageParam: (last) => (last.next === null ? undefined : Number(last.next)),
      },
      query: ({ queryArg, pageParam }) => ({ url: '/assets', params: { ...queryArg, limit: PAGE, offset: pageParam } }),
      providesTags: ['Asset'],
    }),
    facets: build.query<Facet[], { filter: string }>({
      query: (params) => ({ url: '/assets/facets', params }),
      providesTags: ['Asset'],
    }),
    tree: build.query<TreeNode[], { by: 'domain' | 'source'; parent?: string; parentType?: string }>({
      query: (params) => ({ url: '/tree', params }),
      providesTags: ['Asset', 'Source'],
    }),
    asset: build.query<AssetAnswer, string>({ query: (id) => `/assets/${id}`, providesTags: ['Asset'] }),
    profiles: build.query<ProfileAnswer[], string>({
      query: (id) => `/assets/${id}/profiles`,
      providesTags: ['Asset', 'Finding'],
    }),
    children: build.query<AssetRow[], string>({ query: (id) => `/assets/${id}/children`, providesTags: ['Asset'] }),
    columnsOfType: build.query<Page<AssetRow>, string>({
      query: (id) => `/assets/${id}/columns-of-type`,
      providesTags: ['Asset'],
    }),
    editAsset: build.mutation<AssetAnswer, { id: string; version: number; change: AssetChange }>({
      query: ({ id, version, change }) => ({
        url: `/assets/${id}`,
        method: 'PATCH',
        body: change,
        headers: { 'if-match': `"v${version}"` },
      }),
      invalidatesTags: ['Asset'],
    }),
    journal: build.query<JournalEntry[], string | undefined>({
      query: (subject) => ({ url: '/journal', params: subject ? { subject } : {} }),
      providesTags: ['Asset', 'Term', 'Policy', 'Finding', 'Source'],
    }),
  }),
});
export const {
  useAssetsQuery,
  useAssetPagesInfiniteQuery,
  useFacetsQuery,
  useTreeQuery,
  useAssetQuery,
  useProfilesQuery,
  useChildrenQuery,
  useColumnsOfTypeQuery,
  useEditAssetMutation,
  useJournalQuery,
} = catalogApi;
