import type {
  AlikeAnswer,
  DetectorAnswer,
  DetectorSetAnswer,
  DetectorSetBody,
  FindingAnswer,
} from '@idrel/contract/recognition';
import type { WorkItem, WorklistAnswer } from '@idrel/contract/worklist';
import { api } from '../app/api.ts';

export interface Decision {
  assetId: string;
  classKey: string;
  decision: 'confirmed' | 'dismissed' | 'open';
  reason?: string;
  /** A dismissal: holds for every column of the name, now and later. */
  remember?: boolean;
}
const recognitionApi = api.injectEndpoints({
  endpoints: (build) => ({
    findings: build.query<
      { items: FindingAnswer[]; total: number },
      { asset?: string; state?: string; class?: string; limit?: number }
    >({
      query: (params) => ({ url: '/findings', params }),
      providesTags: ['Finding'],
    }),
    alike: build.query<AlikeAnswer, { asset: string; class: string }>({
      query: (params) => ({ url: '/findings/alike', params }),
      providesTags: ['Finding'],
    }),
    decide: build.mutation<{ decided: number }, Decision[]>({
      query: (decisions) => ({
        url: '/findings/decisions',
        method: 'POST',
        body: { decisions: decisions.map((decision) => ({ reason: '', ...decision })) },
      }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    detectors: build.query<DetectorAnswer[], void>({ query: () => '/detectors', providesTags: ['Finding'] }),
    detectorSets: build.query<DetectorSetAnswer[], void>({
      query: () => '/detector-sets',
      providesTags: ['DetectorSet', 'Source'],
    }),
    saveDetectorSet: build.mutation<DetectorSetAnswer, { id: string | null; version: number; body: DetectorSetBody }>({
      query: ({ id, version, body }) => ({
        url: id ? `/detector-sets/${id}` : '/detector-sets',
        method: id ? 'PUT' : 'POST',
        body,
        headers: { 'if-match': `"v${version}"` },
      }),
      invalidatesTags: ['DetectorSet'],
    }),
    removeDetectorSet: build.mutation<void, string>({
      query: (id) => ({ url: `/detector-sets/${id}`, method: 'DELETE' }),
      invalidatesTags: ['DetectorSet'],
    }),
    seeBreaking: build.mutation<void, { runId: string; seen: boolean }>({
      query: ({ runId, seen }) => ({ url: `/runs/${runId}/breaking-seen`, method: 'PUT', body: { seen } }),
      invalidatesTags: ['Finding'],
    }),
    leaveOut: build.mutation<void, { planId: string; paths: readonly string[]; out: boolean }>({
      query: ({ planId, ...body }) => ({ url: `/plans/${planId}/left-out`, method: 'PUT', body }),
      invalidatesTags: ['Finding', 'Source'],
    }),
    worklist: build.query<WorklistAnswer, { kind?: WorkItem['kind'] }>({
      query: (params) => ({ url: '/worklist', params }),
      providesTags: ['Finding', 'Asset'],
    }),
  }),
});
export const {
  useAlikeQuery,
  useFindingsQuery,
  useDecideMutation,
  useDetectorSetsQuery,
  useDetectorsQuery,
  useLeaveOutMutation,
  useRemoveDetectorSetMutation,
  useSaveDetectorSetMutation,
  useSeeBreakingMutation,
  useWorklistQuery,
} = recognitionApi;
