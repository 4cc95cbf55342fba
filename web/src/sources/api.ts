import type { RunAnswer } from '@idrel/contract/scanning';
import type { CredentialAnswer, CredentialKind, KindAnswer, SourceAnswer, TestStep } from '@idrel/contract/sources';
import { api } from '../app/api.ts';

export interface SourceBody {
  name: string;
  kind: string;
  address: Record<string, unknown>;
  domainId: string;
  credentialId: string | null;
  agentGroup?: string | null;
  description: string;
}
export interface SecretBody {
  username: string;
  password: string;
}
const sourcesApi = api.injectEndpoints({
  endpoints: (build) => ({
    sourceKinds: build.query<KindAnswer[], void>({ query: () => '/source-kinds' }),
    sources: build.query<SourceAnswer[], void>({ query: () => '/sources', providesTags: ['Source', 'Run'] }),
    source: build.query<SourceAnswer, string>({ query: (id) => `/sources/${id}`, providesTags: ['Source', 'Run'] }),
    register: build.mutation<SourceAnswer, SourceBody>({
      query: (body) => ({ url: '/sources', method: 'POST', body }),
      invalidatesTags: ['Source'],
    }),
    changeSource: build.mutation<SourceAnswer, { id: string; version: number; change: Partial<SourceBody> }>({
      query: ({ id, version, change }) => ({
        url: `/sources/${id}`,
        method: 'PATCH',
        body: change,
        headers: { 'if-match': `"v${version}"` },
      }),
      invalidatesTags: ['Source', 'Asset'],
    }),
    testSource: build.mutation<TestStep[], string>({ query: (id) => ({ url: `/sources/${id}/test`, method: 'POST' }) }),
    credentials: build.query<CredentialAnswer[], void>({
      query: () => '/credentials',
      providesTags: ['Credential', 'Source'],
    }),
    addCredential: build.mutation<CredentialAnswer, { name: string; kind: CredentialKind } & SecretBody>({
      query: (body) => ({ url: '/credentials', method: 'POST', body }),
      invalidatesTags: ['Credential'],
    }),
    rotateCredential: build.mutation<CredentialAnswer, { id: string; version: number; secret: SecretBody }>({
      query: ({ id, version, secret }) => ({
        url: `/credentials/${id}/secret`,
        method: 'PUT',
        body: secret,
        headers: { 'if-match': `"v${version}"` },
      }),
      invalidatesTags: ['Credential'],
    }),
    removeCredential: build.mutation<void, string>({
      query: (id) => ({ url: `/credentials/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Credential'],
    }),
    runs: build.query<RunAnswer[], string>({ query: (id) => `/sources/${id}/runs`, providesTags: ['Run'] }),
    startRun: build.mutation<RunAnswer, { id: string; sample: boolean }>({
      query: ({ id, ...body }) => ({ url: `/sources/${id}/runs`, method: 'POST', body }),
      invalidatesTags: ['Run'],
    }),
    run: build.query<RunAnswer, string>({ query: (id) => `/runs/${id}`, providesTags: ['Run'] }),
    settleRename: build.mutation<RunAnswer, { id: string; from: string; to: string; same: boolean }>({
      query: ({ id, ...body }) => ({ url: `/runs/${id}/renames`, method: 'POST', body }),
      invalidatesTags: ['Run', 'Asset', 'Source'],
    }),
    cancelRun: build.mutation<RunAnswer, string>({
      query: (id) => ({ url: `/runs/${id}/cancel`, method: 'POST' }),
      invalidatesTags: ['Run'],
    }),
  }),
});
export const {
  useSourceKindsQuery,
  useSourcesQuery,
  useSourceQuery,
  useRegisterMutation,
  useChangeSourceMutation,
  useTestSourceMutation,
  useCredentialsQuery,
  useAddCredentialMutation,
  useRotateCredentialMutation,
  useRemoveCredentialMutation,
  useRunsQuery,
  useStartRunMutation,
  useRunQuery,
  useCancelRunMutation,
  useSettleRenameMutation,
} = sourcesApi;
