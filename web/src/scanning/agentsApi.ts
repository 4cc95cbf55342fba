import type { AgentAnswer, AgentLimits } from '@idrel/contract/scanning';
import { api } from '../app/api.ts';

export interface AgentBody {
  name: string;
  group: string;
  domainId: string;
  limits: AgentLimits;
}

const agentsApi = api.injectEndpoints({
  endpoints: (build) => ({
    agents: build.query<AgentAnswer[], void>({ query: () => '/agents', providesTags: ['Agent', 'Source'] }),
    addAgent: build.mutation<AgentAnswer & { key: string }, AgentBody>({
      query: (body) => ({ url: '/agents', method: 'POST', body }),
      invalidatesTags: ['Agent'],
    }),
    changeAgent: build.mutation<
      AgentAnswer,
      { id: string; version: number; change: Partial<Pick<AgentBody, 'group' | 'limits'>> }
    >({
      query: ({ id, version, change }) => ({
        url: `/agents/${id}`,
        method: 'PATCH',
        body: change,
        headers: { 'if-match': `"v${version}"` },
      }),
      invalidatesTags: ['Agent'],
    }),
    removeAgent: build.mutation<void, string>({
      query: (id) => ({ url: `/agents/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Agent'],
    }),
  }),
});
export const { useAgentsQuery, useAddAgentMutation, useChangeAgentMutation, useRemoveAgentMutation } = agentsApi;
