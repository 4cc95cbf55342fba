import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { scanEndpoints } from '@idrel/contract/scanning';
import type { sourceEndpoints } from '@idrel/contract/sources';
import { api } from '../app/api.ts';

type Sources = typeof sourceEndpoints;
type Scans = typeof scanEndpoints;
export type SourceChange = Input<Sources['change']>['body'];
export interface SecretBody {
  username: string;
  password: string;
}

const sourcesApi = api.injectEndpoints({
  endpoints: (build) => ({
    sourceKinds: build.query<AnswerOf<Sources['kinds']>, void>({
      query: () => call<Sources['kinds']>('get', '/source-kinds'),
    }),
    sources: build.query<AnswerOf<Sources['list']>, void>({
      query: () => call<Sources['list']>('get', '/sources'),
      providesTags: ['Source', { type: 'Run', id: 'all' }],
    }),
    source: build.query<AnswerOf<Sources['get']>, string>({
      query: (id) => call<Sources['get']>('get', '/sources/:id', { params: { id } }),
      providesTags: (_answer, _error, id) => [
        { type: 'Source', id },
        { type: 'Run', id: `of:${id}` },
      ],
    }),
    register: build.mutation<AnswerOf<Sources['register']>, Input<Sources['register']>['body']>({
      query: (body) => call<Sources['register']>('post', '/sources', { body }),
      invalidatesTags: ['Source'],
    }),
    changeSource: build.mutation<AnswerOf<Sources['change']>, { id: string; version: number; change: SourceChange }>({
      query: ({ id, version, change }) =>
        call<Sources['change']>('patch', '/sources/:id', { params: { id }, version, body: change }),
      invalidatesTags: ['Source', 'Asset'],
    }),
    testSource: build.mutation<AnswerOf<Sources['test']>, string>({
      query: (id) => call<Sources['test']>('post', '/sources/:id/test', { params: { id } }),
    }),
    credentials: build.query<AnswerOf<Sources['credentials']>, void>({
      query: () => call<Sources['credentials']>('get', '/credentials'),
      providesTags: ['Credential', 'Source'],
    }),
    addCredential: build.mutation<AnswerOf<Sources['addCredential']>, Input<Sources['addCredential']>['body']>({
      query: (body) => call<Sources['addCredential']>('post', '/credentials', { body }),
      invalidatesTags: ['Credential'],
    }),
    rotateCredential: build.mutation<
      AnswerOf<Sources['rotateCredential']>,
      { id: string; version: number; secret: Input<Sources['rotateCredential']>['body'] }
    >({
      query: ({ id, version, secret }) =>
        call<Sources['rotateCredential']>('put', '/credentials/:id/secret', { params: { id }, version, body: secret }),
      invalidatesTags: ['Credential'],
    }),
    removeCredential: build.mutation<void, string>({
      query: (id) => call<Sources['removeCredential']>('delete', '/credentials/:id', { params: { id } }),
      invalidatesTags: ['Credential'],
    }),
    runs: build.query<AnswerOf<Scans['list']>, string>({
      query: (id) => call<Scans['list']>('get', '/sources/:id/runs', { params: { id } }),
      providesTags: (_answer, _error, id) => [{ type: 'Run', id: `of:${id}` }],
    }),
    startRun: build.mutation<AnswerOf<Scans['start']>, { id: string; sample: boolean }>({
      query: ({ id, ...body }) => call<Scans['start']>('post', '/sources/:id/runs', { params: { id }, body }),
      invalidatesTags: (_answer, _error, { id }) => [
        { type: 'Run', id: `of:${id}` },
        { type: 'Run', id: 'all' },
      ],
    }),
    run: build.query<AnswerOf<Scans['get']>, string>({
      query: (id) => call<Scans['get']>('get', '/runs/:id', { params: { id } }),
      providesTags: (_answer, _error, id) => [{ type: 'Run', id }],
    }),
    settleRename: build.mutation<
      AnswerOf<Scans['settleRename']>,
      { id: string } & Input<Scans['settleRename']>['body']
    >({
      query: ({ id, ...body }) => call<Scans['settleRename']>('post', '/runs/:id/renames', { params: { id }, body }),
      invalidatesTags: ['Run', 'Asset', 'Source'],
    }),
    cancelRun: build.mutation<AnswerOf<Scans['cancel']>, string>({
      query: (id) => call<Scans['cancel']>('post', '/runs/:id/cancel', { params: { id } }),
      invalidatesTags: (answer, _error, id) => [
        { type: 'Run', id },
        { type: 'Run', id: `of:${answer?.sourceId}` },
        { type: 'Run', id: 'all' },
      ],
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
