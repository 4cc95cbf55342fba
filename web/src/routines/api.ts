import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { routineEndpoints } from '@idrel/contract/routines';
import { api } from '../app/api.ts';

type Routines = typeof routineEndpoints;
type Body = Input<Routines['create']>['body'];
type RunAssetsQuery = Input<Routines['runAssets']>['query'];

const routinesApi = api.injectEndpoints({
  endpoints: (build) => ({
    routines: build.query<AnswerOf<Routines['list']>, void>({
      query: () => call<Routines['list']>('get', '/routines'),
      providesTags: ['Routine'],
    }),
    saveRoutine: build.mutation<AnswerOf<Routines['change']>, { id: string | null; version: number; body: Body }>({
      query: ({ id, version, body }) =>
        id
          ? call<Routines['change']>('put', '/routines/:id', { params: { id }, version, body })
          : call<Routines['create']>('post', '/routines', { body }),
      invalidatesTags: ['Routine'],
    }),
    takeRoutine: build.mutation<AnswerOf<Routines['take']>, string>({
      query: (id) => call<Routines['take']>('post', '/routines/:id/take', { params: { id } }),
      invalidatesTags: ['Routine'],
    }),
    removeRoutine: build.mutation<void, string>({
      query: (id) => call<Routines['remove']>('delete', '/routines/:id', { params: { id } }),
      invalidatesTags: ['Routine'],
    }),
    bringBackRoutine: build.mutation<AnswerOf<Routines['bringBack']>, string>({
      query: (id) => call<Routines['bringBack']>('post', '/routines/:id/bring-back', { params: { id } }),
      invalidatesTags: ['Routine'],
    }),
    previewRoutine: build.query<AnswerOf<Routines['preview']>, Input<Routines['preview']>['body']>({
      query: (body) => call<Routines['preview']>('post', '/routines/preview', { body }),
      providesTags: [{ type: 'Asset', id: 'figures' }],
    }),
    replayRoutine: build.query<AnswerOf<Routines['replay']>, Input<Routines['replay']>['body']>({
      query: (body) => call<Routines['replay']>('post', '/routines/replay', { body }),
      providesTags: [{ type: 'Asset', id: 'figures' }],
    }),
    runRoutine: build.mutation<AnswerOf<Routines['run']>, { id: string; changes: number }>({
      query: ({ id, changes }) =>
        call<Routines['run']>('post', '/routines/:id/runs', { params: { id }, body: { changes } }),
      invalidatesTags: ['Routine'],
    }),
    routineRuns: build.query<AnswerOf<Routines['runs']>, string>({
      query: (id) => call<Routines['runs']>('get', '/routines/:id/runs', { params: { id } }),
      providesTags: ['Routine'],
    }),
    routineRun: build.query<AnswerOf<Routines['oneRun']>, string>({
      query: (id) => call<Routines['oneRun']>('get', '/routine-runs/:id', { params: { id } }),
      providesTags: ['Routine'],
    }),
    routineRunAssets: build.query<AnswerOf<Routines['runAssets']>, { id: string; query: RunAssetsQuery }>({
      query: ({ id, query }) =>
        call<Routines['runAssets']>('get', '/routine-runs/:id/assets', { params: { id }, query }),
      providesTags: ['Routine'],
    }),
    goOnRun: build.mutation<AnswerOf<Routines['goOn']>, { id: string; skip: boolean }>({
      query: ({ id, skip }) =>
        call<Routines['goOn']>('post', '/routine-runs/:id/go-on', { params: { id }, body: { skip } }),
      invalidatesTags: ['Routine'],
    }),
    stopRun: build.mutation<AnswerOf<Routines['stop']>, string>({
      query: (id) => call<Routines['stop']>('post', '/routine-runs/:id/stop', { params: { id } }),
      invalidatesTags: ['Routine'],
    }),
    routineQuestions: build.query<AnswerOf<Routines['questions']>, string>({
      query: (id) => call<Routines['questions']>('get', '/routine-runs/:id/questions', { params: { id } }),
      providesTags: ['Routine'],
    }),
    answerRoutine: build.mutation<AnswerOf<Routines['answer']>, { id: string } & Input<Routines['answer']>['body']>({
      query: ({ id, ...body }) =>
        call<Routines['answer']>('post', '/routine-runs/:id/answers', { params: { id }, body }),
      invalidatesTags: ['Routine'],
    }),
    undoRoutineRun: build.mutation<AnswerOf<Routines['undo']>, { id: string; assetId: string | null }>({
      query: ({ id, assetId }) =>
        call<Routines['undo']>('post', '/routine-runs/:id/undo', { params: { id }, body: { assetId } }),
      invalidatesTags: ['Routine', 'Asset'],
    }),
  }),
});
export const {
  useRoutinesQuery,
  useSaveRoutineMutation,
  useTakeRoutineMutation,
  useRemoveRoutineMutation,
  useBringBackRoutineMutation,
  usePreviewRoutineQuery,
  useReplayRoutineQuery,
  useRunRoutineMutation,
  useRoutineRunsQuery,
  useRoutineRunQuery,
  useRoutineRunAssetsQuery,
  useGoOnRunMutation,
  useStopRunMutation,
  useUndoRoutineRunMutation,
  useRoutineQuestionsQuery,
  useAnswerRoutineMutation,
} = routinesApi;
