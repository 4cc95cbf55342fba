import type {
  OutlineItem,
  PlanAnswer,
  PlanPreview,
  RunAnswer,
  RunComparison,
  ScanOptions,
  Schedule,
  Scope,
} from '@idrel/contract/scanning';
import { api } from '../app/api.ts';

/** What of a plan is written by people. */
export interface PlanBody {
  name: string;
  scope: Scope;
  options: ScanOptions;
  schedule: Schedule | null;
  enabled: boolean;
}

const plansApi = api.injectEndpoints({
  endpoints: (build) => ({
    plans: build.query<PlanAnswer[], string>({
      query: (source) => `/sources/${source}/plans`,
      providesTags: ['Source', 'Run'],
    }),
    plan: build.query<PlanAnswer, string>({ query: (id) => `/plans/${id}`, providesTags: ['Source'] }),
    addPlan: build.mutation<PlanAnswer, { source: string; body: PlanBody }>({
      query: ({ source, body }) => ({ url: `/sources/${source}/plans`, method: 'POST', body }),
      invalidatesTags: ['Source'],
    }),
    changePlan: build.mutation<PlanAnswer, { id: string; version: number; change: Partial<PlanBody> }>({
      query: ({ id, version, change }) => ({
        url: `/plans/${id}`,
        method: 'PATCH',
        body: change,
        headers: { 'if-match': `"v${version}"` },
      }),
      invalidatesTags: ['Source'],
    }),
    removePlan: build.mutation<void, string>({
      query: (id) => ({ url: `/plans/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Source'],
    }),
    compareRuns: build.query<RunComparison, { id: string; with: string }>({
      query: ({ id, with: other }) => `/runs/${id}/comparison?with=${other}`,
      providesTags: ['Run'],
    }),
    failedAgain: build.mutation<RunAnswer, string>({
      query: (id) => ({ url: `/runs/${id}/failed-again`, method: 'POST' }),
      invalidatesTags: ['Run'],
    }),
    runPlan: build.mutation<RunAnswer, string>({
      query: (id) => ({ url: `/plans/${id}/runs`, method: 'POST' }),
      invalidatesTags: ['Run'],
    }),
    planPreview: build.query<PlanPreview, { source: string; scope: Scope; schedule: Schedule | null }>({
      query: ({ source, ...body }) => ({ url: `/sources/${source}/plan-preview`, method: 'POST', body }),
    }),
    outline: build.query<OutlineItem[], string>({
      query: (source) => `/sources/${source}/outline`,
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
  useFailedAgainMutation,
  useCompareRunsQuery,
  usePlanPreviewQuery,
  useOutlineQuery,
} = plansApi;
