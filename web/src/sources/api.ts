import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { sourceEndpoints } from '@idrel/contract/sources';
import { api } from '../app/api.ts';

type Sources = typeof sourceEndpoints;
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
    sourceMoveEffect: build.query<AnswerOf<Sources['moveEffect']>, { id: string; to: string }>({
      query: ({ id, to }) => call<Sources['moveEffect']>('get', '/sources/:id/move', { params: { id }, query: { to } }),
      providesTags: ['Domain', 'Person', 'Source'],
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
  }),
});
export const {
  useSourceKindsQuery,
  useSourcesQuery,
  useSourceQuery,
  useRegisterMutation,
  useChangeSourceMutation,
  useSourceMoveEffectQuery,
  useTestSourceMutation,
  useCredentialsQuery,
  useAddCredentialMutation,
  useRotateCredentialMutation,
  useRemoveCredentialMutation,
} = sourcesApi;
