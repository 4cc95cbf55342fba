import type { accessEndpoints } from '@idrel/contract/access';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Access = typeof accessEndpoints;

/** An answer makes or ends policies. */
const CHANGED = ['Request', 'Policy'] as const;

const requestsApi = api.injectEndpoints({
  endpoints: (build) => ({
    requests: build.query<AnswerOf<Access['requests']>, Input<Access['requests']>['query']>({
      query: (query) => call<Access['requests']>('get', '/access/requests', { query }),
      providesTags: ['Request', 'Policy', 'Person', { type: 'Asset', id: 'names' }],
    }),
    request: build.query<AnswerOf<Access['request']>, string>({
      query: (id) => call<Access['request']>('get', '/access/requests/:id', { params: { id } }),
      providesTags: ['Request', 'Policy', 'Person', { type: 'Asset', id: 'names' }],
    }),
    precedents: build.query<AnswerOf<Access['precedents']>, string>({
      query: (id) => call<Access['precedents']>('get', '/access/requests/:id/precedents', { params: { id } }),
      providesTags: ['Request'],
    }),
    ask: build.mutation<AnswerOf<Access['ask']>, Input<Access['ask']>['body']>({
      query: (body) => call<Access['ask']>('post', '/access/requests', { body }),
      invalidatesTags: ['Request'],
    }),
    grantEffect: build.query<
      AnswerOf<Access['grantEffect']>,
      { id: string; body: Input<Access['grantEffect']>['body'] }
    >({
      query: ({ id, body }) =>
        call<Access['grantEffect']>('post', '/access/requests/:id/effect', { params: { id }, body }),
      providesTags: ['Request', 'Policy', 'Finding', 'Person'],
    }),
    answerRequest: build.mutation<
      AnswerOf<Access['answerRequest']>,
      { id: string; version: number; body: Input<Access['answerRequest']>['body'] }
    >({
      query: ({ id, ...input }) =>
        call<Access['answerRequest']>('post', '/access/requests/:id/answer', { params: { id }, ...input }),
      invalidatesTags: [...CHANGED],
    }),
    takeRequestBack: build.mutation<void, string>({
      query: (id) => call<Access['takeBack']>('delete', '/access/requests/:id', { params: { id } }),
      invalidatesTags: ['Request'],
    }),
    seeRequest: build.mutation<void, { id: string } & Input<Access['seenRequest']>['body']>({
      query: ({ id, ...body }) =>
        call<Access['seenRequest']>('put', '/access/requests/:id/seen', { params: { id }, body }),
      invalidatesTags: ['Request'],
    }),
    deputy: build.query<AnswerOf<Access['deputy']>, string>({
      query: (id) => call<Access['deputy']>('get', '/people/:id/deputy', { params: { id } }),
      providesTags: ['Request', 'Person'],
    }),
    changeDeputy: build.mutation<void, { id: string; version: number; body: Input<Access['changeDeputy']>['body'] }>({
      query: ({ id, ...input }) =>
        call<Access['changeDeputy']>('put', '/people/:id/deputy', { params: { id }, ...input }),
      invalidatesTags: ['Request'],
    }),
  }),
});
export const {
  useRequestsQuery,
  useRequestQuery,
  usePrecedentsQuery,
  useAskMutation,
  useGrantEffectQuery,
  useAnswerRequestMutation,
  useTakeRequestBackMutation,
  useSeeRequestMutation,
  useDeputyQuery,
  useChangeDeputyMutation,
} = requestsApi;
