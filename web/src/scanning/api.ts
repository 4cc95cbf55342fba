import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { planEndpoints, ScanOptions, Schedule, Scope } from '@idrel/contract/scanning';
import { api } from '../app/api.ts';

/** What of a plan is written by people. */
export interface PlanBody {
  name: string;
  scope: Scope;
  options: ScanOptions;
  schedule: Schedule | null;
  enabled: boolean;
}

type Plans = typeof planEndpoints;

const plansApi = api.injectEndpoints({
  endpoints: (build) => ({
    plans: build.query<AnswerOf<Plans['list']>, string>({
      query: (id) => call<Plans['list']>('get', '/sources/:id/plans', { params: { id } }),
      providesTags: (_answer, _error, id) => ['Source', { type: 'Run', id: `of:${id}` }],
    }),
    plan: build.query<AnswerOf<Plans['get']>, string>({
      query: (id) => call<Plans['get']>('get', '/plans/:id', { params: { id } }),
      providesTags: (_answer, _error, id) => [{ type: 'Source', id: `plan:${id}` }],
    }),
    addPlan: build.mutation<AnswerOf<Plans['add']>, { source: string; body: PlanBody }>({
      query: ({ source, body }) => call<Plans['add']>('post', '/sources/:id/plans', { params: { id: source }, body }),
      invalidatesTags: ['Source'],
    }),
    changePlan: build.mutation<AnswerOf<Plans['change']>, { id: string; version: number; change: Partial<PlanBody> }>({
      query: ({ id, version, change }) =>
        call<Plans['change']>('patch', '/plans/:id', { params: { id }, version, body: change }),
      invalidatesTags: ['Source'],
    }),
    removePlan: build.mutation<void, string>({
      query: (id) => call<Plans['remove']>('delete', '/plans/:id', { params: { id } }),
      invalidatesTags: ['Source'],
    }),
    leaveOut: build.mutation<void, { planId: string } & Input<Plans['leaveOut']>['body']>({
      query: ({ planId, ...body }) =>
        call<Plans['leaveOut']>('put', '/plans/:id/left-out', { params: { id: planId }, body }),
      invalidatesTags: ['Finding', 'Source'],
    }),
    runPlan: build.mutation<AnswerOf<Plans['run']>, string>({
      query: (id) => call<Plans['run']>('post', '/plans/:id/runs', { params: { id } }),
      invalidatesTags: (answer) => [
        { type: 'Run', id: `of:${answer?.sourceId}` },
        { type: 'Run', id: 'all' },
      ],
    }),
    planPreview: build.query<AnswerOf<Plans['preview']>, { source: string } & Input<Plans['preview']>['body']>({
      query: ({ source, ...body }) =>
        call<Plans['preview']>('post', '/sources/:id/plan-preview', { params: { id: source }, body }),
    }),
    outline: build.query<AnswerOf<Plans['outline']>, string>({
      query: (id) => call<Plans['outline']>('get', '/sources/:id/outline', { params: { id } }),
      keepUnusedDataFor: 300,
    }),
  }),
});
export const {
  usePlansQuery,
  usePlanQuery,
  useAddPlanMutation,
  useChangePlanMutation,
  useRemovePlanMutation,
  useRunPlanMutation,
  useLeaveOutMutation,
  usePlanPreviewQuery,
  useOutlineQuery,
} = plansApi;
