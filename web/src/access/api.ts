import type {
  HeldClass,
  LetGoEffect,
  PolicyAnswer,
  PolicyBody,
  ReachAnswer,
  TableExplained,
  TryAnswer,
} from '@idrel/contract/access';
import { api } from '../app/api.ts';

const accessApi = api.injectEndpoints({
  endpoints: (build) => ({
    policies: build.query<PolicyAnswer[], void>({ query: () => '/policies', providesTags: ['Policy', 'Asset'] }),
    createPolicy: build.mutation<PolicyAnswer, PolicyBody>({
      query: (body) => ({ url: '/policies', method: 'POST', body }),
      invalidatesTags: ['Policy'],
    }),
    changePolicy: build.mutation<PolicyAnswer, { id: string; version: number; body: PolicyBody }>({
      query: ({ id, version, body }) => ({
        url: `/policies/${id}`,
        method: 'PUT',
        body,
        headers: { 'if-match': `"v${version}"` },
      }),
      invalidatesTags: ['Policy'],
    }),
    removePolicy: build.mutation<void, string>({
      query: (id) => ({ url: `/policies/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Policy'],
    }),
    reach: build.query<ReachAnswer, { policyId: string | null; draft: PolicyBody | null }>({
      query: (body) => ({ url: '/policies/reach', method: 'POST', body }),
      providesTags: ['Policy', 'Asset', 'Finding'],
    }),
    held: build.query<HeldClass[], void>({ query: () => '/access/held', providesTags: ['Policy', 'Finding'] }),
    letGoEffect: build.query<LetGoEffect, { asset: string; class: string }>({
      query: (params) => ({ url: '/access/held/effect', params }),
      providesTags: ['Policy', 'Finding'],
    }),
    letGo: build.mutation<void, { assetId: string; classKey: string }>({
      query: (body) => ({ url: '/access/held/let-go', method: 'POST', body }),
      invalidatesTags: ['Policy', 'Finding'],
    }),
    explain: build.query<TableExplained[], { person: string; asset: string }>({
      query: (params) => ({ url: '/access/explain', params }),
      providesTags: ['Policy', 'Finding'],
    }),
    tryQuery: build.mutation<TryAnswer, { personId: string; sourceId: string; sql: string }>({
      query: (body) => ({ url: '/access/try', method: 'POST', body }),
    }),
  }),
});
export const {
  usePoliciesQuery,
  useCreatePolicyMutation,
  useChangePolicyMutation,
  useRemovePolicyMutation,
  useReachQuery,
  useHeldQuery,
  useLetGoEffectQuery,
  useLetGoMutation,
  useExplainQuery,
  useTryQueryMutation,
} = accessApi;
