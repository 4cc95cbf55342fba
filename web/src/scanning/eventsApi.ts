import type { AnswerOf } from '@idrel/contract/http';
import { call } from '@idrel/contract/http/address';
import type { runEventEndpoints } from '@idrel/contract/scanning';
import { api } from '../app/api.ts';

type Events = typeof runEventEndpoints;

const eventsApi = api.injectEndpoints({
  endpoints: (build) => ({
    sourceEvents: build.query<AnswerOf<Events['events']>, string>({
      query: (id) => call<Events['events']>('get', '/sources/:id/events', { params: { id } }),
      providesTags: (_answer, _error, id) => [{ type: 'Source', id: `events:${id}` }],
    }),
    makeEventKey: build.mutation<AnswerOf<Events['makeKey']>, string>({
      query: (id) => call<Events['makeKey']>('post', '/sources/:id/event-key', { params: { id } }),
      invalidatesTags: (_answer, _error, id) => [{ type: 'Source', id: `events:${id}` }],
    }),
    flowRuns: build.query<AnswerOf<Events['runs']>, { id: string; limit: number }>({
      query: ({ id, ...query }) => call<Events['runs']>('get', '/assets/:id/runs', { params: { id }, query }),
      providesTags: (_answer, _error, { id }) => [{ type: 'Asset', id }],
    }),
  }),
});
export const { useSourceEventsQuery, useMakeEventKeyMutation, useFlowRunsQuery } = eventsApi;
