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
    reachLater: build.query<AnswerOf<Access['later']>, Input<Access['later']>['body']>({
      query: (body) => call<Access['later']>('post', '/policies/later', { body }),
      providesTags: ['Policy', 'Finding', 'Person'],
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
    rights: build.query<AnswerOf<Access['rights']>, Input<Access['rights']>['query']>({
      query: (query) => call<Access['rights']>('get', '/access/rights', { query }),
      providesTags: ['Policy', 'Request', 'Share', 'Person', { type: 'Asset', id: 'names' }],
    }),
    readers: build.query<AnswerOf<Access['readers']>, Input<Access['readers']>['query']>({
      query: (query) => call<Access['readers']>('get', '/access/readers', { query }),
      providesTags: ['Policy', 'Finding', 'Person', 'NativeRight'],
    }),
    readable: build.query<AnswerOf<Access['readable']>, Input<Access['readable']>['query']>({
      query: (query) => call<Access['readable']>('get', '/access/readable', { query }),
      providesTags: ['Policy', 'Finding', 'Person', 'NativeRight'],
    }),
    policiesOut: build.mutation<AnswerOf<Access['policiesOut']>, 'yaml' | 'odrl'>({
      query: (format) => call<Access['policiesOut']>('get', '/policies-file', { query: { format } }),
    }),
    planPolicies: build.mutation<AnswerOf<Access['policiesIn']>, Input<Access['policiesIn']>['body']>({
      query: (body) => call<Access['policiesIn']>('post', '/policies-file', { query: { preview: true }, body }),
    }),
    importPolicies: build.mutation<AnswerOf<Access['policiesIn']>, Input<Access['policiesIn']>['body']>({
      query: (body) => call<Access['policiesIn']>('post', '/policies-file', { query: {}, body }),
      invalidatesTags: ['Policy'],
    }),
    knownFrom: build.query<AnswerOf<Access['knownFrom']>, void>({
      query: () => call<Access['knownFrom']>('get', '/access/known-from'),
    }),
    // What a period was does not change any more.
    accessReport: build.query<AnswerOf<Access['report']>, Input<Access['report']>['query']>({
      query: (query) => call<Access['report']>('get', '/access/report', { query }),
    }),
    accessReportFile: build.mutation<AnswerOf<Access['reportFile']>, Input<Access['reportFile']>['query']>({
      query: (query) => call<Access['reportFile']>('get', '/access/report/file', { query }),
    }),
    bypasses: build.query<AnswerOf<Access['bypasses']>, Input<Access['bypasses']>['query']>({
      query: (query) => call<Access['bypasses']>('get', '/access/bypasses', { query }),
      providesTags: ['Policy', 'Finding', 'Person', 'NativeRight'],
    }),
    closingPlan: build.query<AnswerOf<Access['closingPlan']>, Input<Access['closingPlan']>['body']>({
      query: (body) => call<Access['closingPlan']>('post', '/access/bypasses/plan', { body }),
      providesTags: ['Policy', 'Finding', 'NativeRight'],
    }),
    acceptBypass: build.mutation<void, Input<Access['accept']>['body']>({
      query: (body) => call<Access['accept']>('put', '/access/bypasses/accepted', { body }),
      invalidatesTags: ['NativeRight'],
    }),
    forgetAccepted: build.mutation<void, string>({
      query: (id) => call<Access['accepted']>('delete', '/access/bypasses/accepted/:id', { params: { id } }),
      invalidatesTags: ['NativeRight'],
    }),
    nativeRoles: build.query<AnswerOf<Access['roles']>, string>({
      query: (id) => call<Access['roles']>('get', '/sources/:id/native-roles', { params: { id } }),
      providesTags: ['NativeRight'],
    }),
    matchRole: build.mutation<
      AnswerOf<Access['match']>,
      { id: string; version: number; body: Input<Access['match']>['body'] }
    >({
      query: ({ id, ...input }) =>
        call<Access['match']>('put', '/sources/:id/native-roles', { params: { id }, ...input }),
      invalidatesTags: ['NativeRight'],
    }),
    enforcement: build.query<AnswerOf<Access['enforcement']>, string>({
      query: (id) => call<Access['enforcement']>('get', '/sources/:id/enforcement', { params: { id } }),
      providesTags: ['Policy', 'NativeRight'],
    }),
    changeEnforcement: build.mutation<
      AnswerOf<Access['changeEnforcement']>,
      { id: string; version: number; body: Input<Access['changeEnforcement']>['body'] }
    >({
      query: ({ id, ...input }) =>
        call<Access['changeEnforcement']>('put', '/sources/:id/enforcement', { params: { id }, ...input }),
      invalidatesTags: ['NativeRight'],
    }),
    enforcingPlan: build.query<AnswerOf<Access['enforcingPlan']>, string>({
      query: (id) => call<Access['enforcingPlan']>('post', '/sources/:id/enforcement/plan', { params: { id } }),
      // What stands at the source may change at any time.
      keepUnusedDataFor: 0,
      providesTags: ['Policy', 'Finding', 'Person', 'NativeRight'],
    }),
    enforce: build.mutation<AnswerOf<Access['enforce']>, { id: string; body: Input<Access['enforce']>['body'] }>({
      query: ({ id, body }) =>
        call<Access['enforce']>('post', '/sources/:id/enforcement/made', { params: { id }, body }),
      invalidatesTags: ['NativeRight'],
    }),
    checkEnforcement: build.mutation<AnswerOf<Access['checkEnforcement']>, { id: string; accept: string | null }>({
      query: ({ id, accept }) =>
        call<Access['checkEnforcement']>('post', '/sources/:id/enforcement/checks', {
          params: { id },
          body: { accept },
        }),
      invalidatesTags: ['NativeRight'],
    }),
    endEnforcement: build.mutation<AnswerOf<Access['endEnforcement']>, string>({
      query: (id) => call<Access['endEnforcement']>('delete', '/sources/:id/enforcement/made', { params: { id } }),
      invalidatesTags: ['NativeRight'],
    }),
    explain: build.query<AnswerOf<Access['explain']>, Input<Access['explain']>['query']>({
      query: (query) => call<Access['explain']>('get', '/access/explain', { query }),
      providesTags: ['Policy', 'Finding', 'NativeRight'],
    }),
    assetImage: build.query<string, string>({
      query: (id) => ({
        ...call<Access['image']>('get', '/assets/:id/image', { params: { id } }),
        responseHandler: async (response) => (response.ok ? dataAddress(await response.blob()) : response.json()),
      }),
      keepUnusedDataFor: 0,
      providesTags: ['Policy'],
    }),
    given: build.query<AnswerOf<Access['given']>, string>({
      query: (id) => call<Access['given']>('get', '/assets/:id/given', { params: { id } }),
      providesTags: ['Policy', 'Person', 'Finding'],
    }),
    give: build.mutation<AnswerOf<Access['give']>, { id: string; body: Input<Access['give']>['body'] }>({
      query: ({ id, body }) => call<Access['give']>('post', '/assets/:id/given', { params: { id }, body }),
      invalidatesTags: ['Policy'],
    }),
    takeGiven: build.mutation<AnswerOf<Access['takeGiven']>, string>({
      query: (id) => call<Access['takeGiven']>('delete', '/given/:id', { params: { id } }),
      invalidatesTags: ['Policy'],
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
  useGivenQuery,
  useGiveMutation,
  useTakeGivenMutation,
  usePoliciesQuery,
  useCreatePolicyMutation,
  useChangePolicyMutation,
  useRemovePolicyMutation,
  useLazyReachQuery,
  useReachLaterQuery,
  useMaskSampleQuery,
  useCheckedPoliciesQuery,
  useHeldQuery,
  useLetGoEffectQuery,
  useLetGoMutation,
  useReadersQuery,
  useRightsQuery,
  useReadableQuery,
  useKnownFromQuery,
  usePoliciesOutMutation,
  usePlanPoliciesMutation,
  useImportPoliciesMutation,
  useAccessReportQuery,
  useAccessReportFileMutation,
  useBypassesQuery,
  useClosingPlanQuery,
  useAcceptBypassMutation,
  useForgetAcceptedMutation,
  useNativeRolesQuery,
  useMatchRoleMutation,
  useEnforcementQuery,
  useChangeEnforcementMutation,
  useEnforcingPlanQuery,
  useEnforceMutation,
  useCheckEnforcementMutation,
  useEndEnforcementMutation,
  useExplainQuery,
  useAssetImageQuery,
  useLazySampleRowsQuery,
  useTryQueryMutation,
} = accessApi;
