import type { AssetAnswer, AssetRow, catalogEndpoints } from '@idrel/contract/catalog';
import type { curationEndpoints } from '@idrel/contract/curation';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api, MARKS } from '../app/api.ts';
import type { store } from '../app/store.ts';

const PAGE = 200;

type Catalog = typeof catalogEndpoints;
export type AssetQuery = Input<Catalog['list']>['query'];
type Edit = (typeof curationEndpoints)['edit'];
type Know = (typeof curationEndpoints)['know'];
type DescribeMany = (typeof curationEndpoints)['describeMany'];
type PutBack = (typeof curationEndpoints)['putBack'];

/** Lists that show rows of assets. */
const ROWS = { type: 'Asset', id: 'rows' } as const;

/** What an edit of an asset makes old, beside the asset and its rows: its history; where marks of it are counted or shown, those. A level moves levels around it. */
function touchedBy(id: string, change: Input<Edit>['body']) {
  if (change.level !== undefined) return ['Asset'] as const;
  const journals = [`journal:${id}`, 'journal:all'].map((of) => ({ type: 'Asset' as const, id: of }));
  const marked =
    change.standing !== undefined ||
    change.ownerIds ||
    change.termIds ||
    change.stewardIds ||
    change.custodianIds ||
    change.tags;
  return [
    ...journals,
    ...(change.termIds ? (['Term'] as const) : []),
    ...(change.tags ? (['Tag'] as const) : []),
    ...(marked ? [MARKS, { type: 'Asset' as const, id: 'facets' }] : []),
    { type: 'Asset' as const, id: 'figures' },
  ];
}

type Loaded = { items?: AssetRow[]; pages?: { items: AssetRow[] }[] } | AssetRow[];
/** The edited asset in a loaded list of whatever form, with the same fields as the others. */
const putRight = (asset: AssetAnswer) => (loaded: unknown) => {
  const list = loaded as Loaded;
  const rows = Array.isArray(list) ? list : (list.items ?? list.pages?.flatMap((page) => page.items) ?? []);
  for (const row of rows)
    if (row.id === asset.id)
      for (const key of Object.keys(row) as (keyof AssetRow)[]) Object.assign(row, { [key]: asset[key] });
};

export const catalogApi = api.injectEndpoints({
  endpoints: (build) => ({
    assets: build.query<AnswerOf<Catalog['list']>, AssetQuery>({
      query: (query) => call<Catalog['list']>('get', '/assets', { query }),
      providesTags: [ROWS],
    }),
    assetPages: build.infiniteQuery<AnswerOf<Catalog['list']>, AssetQuery, number>({
      infiniteQueryOptions: {
        initialPageParam: 0,
        getNextPageParam: (last) => (last.next === null ? undefined : Number(last.next)),
      },
      query: ({ queryArg, pageParam }) =>
        call<Catalog['list']>('get', '/assets', { query: { ...queryArg, limit: PAGE, offset: pageParam } }),
      providesTags: [ROWS],
    }),
    facets: build.query<AnswerOf<Catalog['facets']>, Input<Catalog['facets']>['query']>({
      query: (query) => call<Catalog['facets']>('get', '/assets/facets', { query }),
      providesTags: [{ type: 'Asset', id: 'facets' }],
    }),
    why: build.query<AnswerOf<Catalog['why']>, { id: string; query: Input<Catalog['why']>['query'] }>({
      query: ({ id, query }) => call<Catalog['why']>('get', '/assets/:id/why', { params: { id }, query }),
      providesTags: (_answer, _error, { id }) => [{ type: 'Asset', id }],
    }),
    tree: build.query<AnswerOf<Catalog['tree']>, Input<Catalog['tree']>['query']>({
      query: (query) => call<Catalog['tree']>('get', '/tree', { query }),
      providesTags: [{ type: 'Asset', id: 'tree' }, 'Source'],
    }),
    asset: build.query<AnswerOf<Catalog['get']>, string>({
      query: (id) => call<Catalog['get']>('get', '/assets/:id', { params: { id } }),
      providesTags: (_answer, _error, id) => [{ type: 'Asset', id }],
    }),
    profiles: build.query<AnswerOf<Catalog['profiles']>, string>({
      query: (id) => call<Catalog['profiles']>('get', '/assets/:id/profiles', { params: { id } }),
      providesTags: (_answer, _error, id) => [{ type: 'Asset', id: `values:${id}` }, 'Finding'],
    }),
    children: build.query<AnswerOf<Catalog['children']>, string>({
      query: (id) => call<Catalog['children']>('get', '/assets/:id/children', { params: { id } }),
      providesTags: [ROWS],
    }),
    columnsOfType: build.query<AnswerOf<Catalog['columnsOfType']>, string>({
      query: (id) =>
        call<Catalog['columnsOfType']>('get', '/assets/:id/columns-of-type', { params: { id }, query: {} }),
      providesTags: [ROWS],
    }),
    assetKeys: build.query<AnswerOf<Catalog['assetKeys']>, string>({
      query: (id) => call<Catalog['assetKeys']>('get', '/assets/:id/keys', { params: { id } }),
    }),
    assetUse: build.query<AnswerOf<Catalog['assetUse']>, { id: string; limit: number }>({
      query: ({ id, limit }) =>
        call<Catalog['assetUse']>('get', '/assets/:id/use', { params: { id }, query: { limit } }),
      providesTags: (_answer, _error, { id }) => [{ type: 'Asset', id: `use:${id}` }],
    }),
    putBack: build.mutation<AnswerOf<PutBack>, { id: string; version: number; body: Input<PutBack>['body'] }>({
      query: ({ id, version, body }) =>
        call<PutBack>('post', '/assets/:id/put-back', { params: { id }, version, body }),
      invalidatesTags: ['Asset', 'Term', 'Tag'],
    }),
    knowAsset: build.mutation<AnswerOf<Know>, { id: string; knows: boolean }>({
      query: ({ id, knows }) => call<Know>('put', '/assets/:id/knowing', { params: { id }, body: { knows } }),
      invalidatesTags: (_answer, _error, { id }) => [
        ...[`journal:${id}`, 'journal:all', 'facets'].map((of) => ({ type: 'Asset' as const, id: of })),
      ],
      async onQueryStarted({ id }, { dispatch, queryFulfilled }) {
        const said = await queryFulfilled.catch(() => undefined);
        if (said) dispatch(catalogApi.util.updateQueryData('asset', id, () => said.data));
      },
    }),
    describeAssets: build.mutation<AnswerOf<DescribeMany>, Input<DescribeMany>['body']>({
      query: (body) => call<DescribeMany>('put', '/descriptions', { body }),
      invalidatesTags: ['Asset'],
    }),
    editAsset: build.mutation<AnswerOf<Edit>, { id: string; version: number; change: Input<Edit>['body'] }>({
      query: ({ id, version, change }) => call<Edit>('patch', '/assets/:id', { params: { id }, version, body: change }),
      invalidatesTags: (answer, _error, { id, change }) => (answer ? touchedBy(id, change) : []),
      async onQueryStarted({ id }, { dispatch, getState, queryFulfilled }) {
        const saved = await queryFulfilled.catch(() => undefined);
        if (!saved) return;
        const { data } = saved;
        dispatch(catalogApi.util.updateQueryData('asset', id, () => data));
        // Rows that show it are put right where they stand: a list of ten thousand is not asked for again for one of them.
        for (const { endpointName, originalArgs } of catalogApi.util.selectInvalidatedBy(getState(), [ROWS]))
          dispatch(catalogApi.util.updateQueryData(endpointName as 'assets', originalArgs, putRight(data)));
      },
    }),
  }),
});
export const {
  useAssetsQuery,
  useAssetPagesInfiniteQuery,
  useFacetsQuery,
  useTreeQuery,
  useWhyQuery,
  useAssetQuery,
  useProfilesQuery,
  useChildrenQuery,
  useColumnsOfTypeQuery,
  useAssetKeysQuery,
  useAssetUseQuery,
  useDescribeAssetsMutation,
  useKnowAssetMutation,
  useEditAssetMutation,
  usePutBackMutation,
} = catalogApi;

/** Asks for an asset and what lies in it before its page is there; whoever shows them finds the answers. */
export function askForAsset(id: string, dispatch: (typeof store)['dispatch']): void {
  void dispatch(catalogApi.endpoints.asset.initiate(id, { subscribe: false }));
  void dispatch(catalogApi.endpoints.children.initiate(id, { subscribe: false }));
}
