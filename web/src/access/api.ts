import type { accessEndpoints } from '@idrel/contract/access';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Access = typeof accessEndpoints;
type Draft = Input<Access['create']>['body'];

/** An image as an address that a page can show it by. */
const dataAddress = (image: Blob): Promise<string> =>
  new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(String(reader.result));
    reader.onerror = () => reject(reader.error);
    reader.readAsDataURL(image);
  });

const accessApi = api.injectEndpoints({
  endpoints: (build) => ({
    policies: build.query<AnswerOf<Access['list']>, { domain: string } | undefined>({
      query: (within) => call<Access['list']>('get', '/policies', { query: within ?? {} }),
      providesTags: ['Policy', { type: 'Asset', id: 'names' }],
    }),
    createPolicy: build.mutation<AnswerOf<Access['create']>, Draft>({
      query: (body) => call<Access['create']>('post', '/policies', { body }),
      invalidatesTags: ['Policy'],
    }),
    changePolicy: build.mutation<AnswerOf<Access['change']>, { id: string; version: number; body: Draft }>({
      query: ({ id, ...input }) => call<Access['change']>('put', '/policies/:id', { params: { id }, ...input }),
      invalidatesTags: ['Policy'],
    }),
    removePolicy: build.mutation<void, string>({
      query: (id) => call<Access['remove']>('delete', '/policies/:id', { params: { id } }),
      invalidatesTags: ['Policy'],
    }),
    reach: build.query<AnswerOf<Access['reach']>, { policyId: string | null; draft: Draft | null }>({
      query: (body) => call<Access['reach']>('post', '/policies/reach', { body }),
      providesTags: ['Policy', { type: 'Asset', id: 'names' }, 'Finding'],
    }),
    maskSample: build.query<AnswerOf<Access['maskSample']>, Input<Access['maskSample']>['body']>({
      query: (body) => call<Access['maskSample']>('post', '/policies/mask-sample', { body }),
    }),
    checkedPolicies: build.query<AnswerOf<Access['checked']>, void>({
      query: () => call<Access['checked']>('get', '/policies/checked'),
      providesTags: ['Policy', 'Person', 'Finding'],
    }),
    held: build.query<AnswerOf<Access['held']>, void>({
      query: () => call<Access['held']>('get', '/access/held'),
      providesTags: ['Policy', 'Finding'],
    }),
    letGoEffect: build.query<AnswerOf<Access['letGoEffect']>, Input<Access['letGoEffect']>['query']>({
      query: (query) => call<Access['letGoEffect']>('get', '/access/held/effect', { query }),
      providesTags: ['Policy', 'Finding'],
    }),
    letGo: build.mutation<void, Input<Access['letGo']>['body']>({
      query: (body) => call<Access['letGo']>('post', '/access/held/let-go', { body }),
      invalidatesTags: ['Policy', 'Finding'],
    }),
    explain: build.query<AnswerOf<Access['explain']>, Input<Access['explain']>['query']>({
      query: (query) => call<Access['explain']>('get', '/access/explain', { query }),
      providesTags: ['Policy', 'Finding'],
    }),
    assetImage: build.query<string, string>({
      query: (id) => ({
        ...call<Access['image']>('get', '/assets/:id/image', { params: { id } }),
        responseHandler: async (response) => (response.ok ? dataAddress(await response.blob()) : response.json()),
      }),
      keepUnusedDataFor: 0,
      providesTags: ['Policy'],
    }),
    sampleRows: build.query<AnswerOf<Access['rows']>, Input<Access['rows']>['params'] & Input<Access['rows']>['query']>(
      {
        query: ({ id, ...query }) => call<Access['rows']>('get', '/assets/:id/rows', { params: { id }, query }),
        // Values are forgotten when nobody looks at them.
        keepUnusedDataFor: 0,
      },
    ),
    tryQuery: build.mutation<AnswerOf<Access['tryIt']>, Input<Access['tryIt']>['body']>({
      query: (body) => call<Access['tryIt']>('post', '/access/try', { body }),
    }),
  }),
});
export const {
  usePoliciesQuery,
  useCreatePolicyMutation,
  useChangePolicyMutation,
  useRemovePolicyMutation,
  useLazyReachQuery,
  useMaskSampleQuery,
  useCheckedPoliciesQuery,
  useHeldQuery,
  useLetGoEffectQuery,
  useLetGoMutation,
  useExplainQuery,
  useAssetImageQuery,
  useLazySampleRowsQuery,
  useTryQueryMutation,
} = accessApi;
