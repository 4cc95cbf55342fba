import type { catalogEndpoints } from '@idrel/contract/catalog';
import type { curationEndpoints } from '@idrel/contract/curation';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { journalEndpoints } from '@idrel/contract/journal';
import { api } from '../app/api.ts';

const PAGE = 200;

type Catalog = typeof catalogEndpoints;
export type AssetQuery = Input<Catalog['list']>['query'];
type Edit = (typeof curationEndpoints)['edit'];
type Journal = (typeof journalEndpoints)['list'];

const catalogApi = api.injectEndpoints({
  endpoints: (build) => ({
    assets: build.query<AnswerOf<Catalog['list']>, AssetQuery>({
      query: (query) => call<Catalog['list']>('get', '/assets', { query }),
      providesTags: ['Asset'],
    }),
    assetPages: build.infiniteQuery<AnswerOf<Catalog['list']>, AssetQuery, number>({
      infiniteQueryOptions: {
        initialPageParam: 0,
        getNextPageParam: (last) => (last.next === null ? undefined : Number(last.next)),
      },
      query: ({ queryArg, pageParam }) =>
        call<Catalog['list']>('get', '/assets', { query: { ...queryArg, limit: PAGE, offset: pageParam } }),
      providesTags: ['Asset'],
    }),
    facets: build.query<AnswerOf<Catalog['facets']>, Input<Catalog['facets']>['query']>({
      query: (query) => call<Catalog['facets']>('get', '/assets/facets', { query }),
      providesTags: ['Asset'],
    }),
    tree: build.query<AnswerOf<Catalog['tree']>, Input<Catalog['tree']>['query']>({
      query: (query) => call<Catalog['tree']>('get', '/tree', { query }),
      providesTags: ['Asset', 'Source'],
    }),
    asset: build.query<AnswerOf<Catalog['get']>, string>({
      query: (id) => call<Catalog['get']>('get', '/assets/:id', { params: { id } }),
      providesTags: ['Asset'],
    }),
    profiles: build.query<AnswerOf<Catalog['profiles']>, string>({
      query: (id) => call<Catalog['profiles']>('get', '/assets/:id/profiles', { params: { id } }),
      providesTags: ['Asset', 'Finding'],
    }),
    children: build.query<AnswerOf<Catalog['children']>, string>({
      query: (id) => call<Catalog['children']>('get', '/assets/:id/children', { params: { id } }),
      providesTags: ['Asset'],
    }),
    columnsOfType: build.query<AnswerOf<Catalog['columnsOfType']>, string>({
      query: (id) =>
        call<Catalog['columnsOfType']>('get', '/assets/:id/columns-of-type', { params: { id }, query: {} }),
      providesTags: ['Asset'],
    }),
    editAsset: build.mutation<AnswerOf<Edit>, { id: string; version: number; change: Input<Edit>['body'] }>({
      query: ({ id, version, change }) => call<Edit>('patch', '/assets/:id', { params: { id }, version, body: change }),
      invalidatesTags: ['Asset'],
    }),
    journal: build.query<AnswerOf<Journal>, string | undefined>({
      query: (subject) => call<Journal>('get', '/journal', { query: subject ? { subject } : {} }),
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
