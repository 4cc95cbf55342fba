import type { RoutineAnswer, RoutineBody, RoutinePreview, RoutineRunAnswer } from '@idrel/contract/routines';
import { api } from '../app/api.ts';

const routinesApi = api.injectEndpoints({
  endpoints: (build) => ({
    routines: build.query<RoutineAnswer[], void>({ query: () => '/routines', providesTags: ['Routine'] }),
    saveRoutine: build.mutation<RoutineAnswer, { id: string | null; version: number; body: RoutineBody }>({
      query: ({ id, version, body }) => ({
        url: id ? `/routines/${id}` : '/routines',
        method: id ? 'PUT' : 'POST',
        body,
        headers: { 'if-match': `"v${version}"` },
      }),
      invalidatesTags: ['Routine'],
    }),
    removeRoutine: build.mutation<void, string>({
      query: (id) => ({ url: `/routines/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Routine'],
    }),
    bringBackRoutine: build.mutation<RoutineAnswer, string>({
      query: (id) => ({ url: `/routines/${id}/bring-back`, method: 'POST' }),
      invalidatesTags: ['Routine'],
    }),
    previewRoutine: build.query<RoutinePreview, Pick<RoutineBody, 'filter' | 'action'>>({
      query: (body) => ({ url: '/routines/preview', method: 'POST', body }),
      providesTags: ['Asset'],
    }),
    runRoutine: build.mutation<RoutineRunAnswer, { id: string; changes: number }>({
      query: ({ id, changes }) => ({ url: `/routines/${id}/runs`, method: 'POST', body: { changes } }),
      invalidatesTags: ['Routine', 'Asset'],
    }),
    routineRuns: build.query<RoutineRunAnswer[], string>({
      query: (id) => `/routines/${id}/runs`,
      providesTags: ['Routine'],
    }),
    undoRoutineRun: build.mutation<RoutineRunAnswer, string>({
      query: (id) => ({ url: `/routine-runs/${id}/undo`, method: 'POST' }),
      invalidatesTags: ['Routine', 'Asset'],
    }),
  }),
});
export const {
  useRoutinesQuery,
  useSaveRoutineMutation,
  useRemoveRoutineMutation,
  useBringBackRoutineMutation,
  usePreviewRoutineQuery,
  useRunRoutineMutation,
  useRoutineRunsQuery,
  useUndoRoutineRunMutation,
} = routinesApi;
