import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { agentEndpoints } from '@idrel/contract/scanning';
import { api } from '../app/api.ts';

type Agents = typeof agentEndpoints;
export type AgentBody = Input<Agents['add']>['body'];

const agentsApi = api.injectEndpoints({
  endpoints: (build) => ({
    agents: build.query<AnswerOf<Agents['list']>, void>({
      query: () => call<Agents['list']>('get', '/agents'),
      providesTags: ['Agent', 'Source'],
    }),
    addAgent: build.mutation<AnswerOf<Agents['add']>, Input<Agents['add']>['body']>({
      query: (body) => call<Agents['add']>('post', '/agents', { body }),
      invalidatesTags: ['Agent'],
    }),
    changeAgent: build.mutation<
      AnswerOf<Agents['change']>,
      { id: string; version: number; change: Input<Agents['change']>['body'] }
    >({
      query: ({ id, version, change }) =>
        call<Agents['change']>('patch', '/agents/:id', { params: { id }, version, body: change }),
      invalidatesTags: ['Agent'],
    }),
    removeAgent: build.mutation<void, string>({
      query: (id) => call<Agents['remove']>('delete', '/agents/:id', { params: { id } }),
      invalidatesTags: ['Agent'],
    }),
  }),
});
export const { useAgentsQuery, useAddAgentMutation, useChangeAgentMutation, useRemoveAgentMutation } = agentsApi;
