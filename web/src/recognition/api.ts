import type { DetectorAnswer, FindingAnswer } from '@idrel/contract/recognition';
import type { WorkItem, WorklistAnswer } from '@idrel/contract/worklist';
import { api } from '../app/api.ts';

export interface Decision {
  assetId: string;
  classKey: string;
  decision: 'confirmed' | 'dismissed' | 'open';
  reason?: string;
}
const recognitionApi = api.injectEndpoints({
  endpoints: (build) => ({
    findings: build.query<{ items: FindingAnswer[]; total: number }, { asset?: string; state?: string; class?: string; limit?: number }>({
      query: (params) => ({ url: '/findings', params }),
      providesTags: ['Finding'],
    }),
    decide: build.mutation<{ decided: number }, Decision[]>({
      query: (decisions) => ({ url: '/findings/decisions', method: 'POST', body: { decisions: decisions.map((decision) => ({ reason: '', ...decision })) } }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    detectors: build.query<DetectorAnswer[], void>({ query: () => '/detectors', providesTags: ['Finding'] }),
    seeBreaking: build.mutation<void, { runId: string; seen: boolean }>({
      query: ({ runId, seen }) => ({ url: `/runs/${runId}/breaking-seen`, method: 'PUT', body: { seen } }),
      invalidatesTags: ['Finding'],
    }),
    worklist: build.query<WorklistAnswer, { kind?: WorkItem['kind'] }>({ query: (params) => ({ url: '/worklist', params }), providesTags: ['Finding', 'Asset'] }),
  }),
});
export const { useFindingsQuery, useDecideMutation, useDetectorsQuery, useSeeBreakingMutation, useWorklistQuery } = recognitionApi;
