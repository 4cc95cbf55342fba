import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { recognitionEndpoints } from '@idrel/contract/recognition';
import { api } from '../app/api.ts';

type Recognition = typeof recognitionEndpoints;
type BodyOf<K extends keyof Recognition> = Input<Recognition[K]> extends { readonly body: infer B } ? B : never;
/** What would be other than it is, for the preview of levels. */
export type LevelChange = BodyOf<'previewLevelRule'>;
/** What would be other than it is, for the preview of findings. */
export type CertaintyChange = BodyOf<'previewCertainty'>;

const ownApi = api.injectEndpoints({
  endpoints: (build) => ({
    classes: build.query<AnswerOf<Recognition['classes']>, void>({
      query: () => call<Recognition['classes']>('get', '/classes'),
      providesTags: ['Finding', 'DetectorSet'],
    }),
    saveClass: build.mutation<
      AnswerOf<Recognition['changeClass']>,
      { key: string | null; version: number; body: BodyOf<'addClass'> }
    >({
      query: ({ key, version, body }) =>
        key
          ? call<Recognition['changeClass']>('put', '/classes/:key', { params: { key }, version, body })
          : call<Recognition['addClass']>('post', '/classes', { body }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    carriers: build.query<AnswerOf<Recognition['carriers']>, string>({
      query: (key) => call<Recognition['carriers']>('get', '/classes/:key/carriers', { params: { key } }),
      providesTags: ['Finding'],
    }),
    removeClass: build.mutation<void, { key: string; columns: number }>({
      query: ({ key, ...query }) =>
        call<Recognition['removeClass']>('delete', '/classes/:key', { params: { key }, query }),
      invalidatesTags: ['Finding', 'Asset', 'DetectorSet'],
    }),
    restoreClass: build.mutation<AnswerOf<Recognition['restoreClass']>, string>({
      query: (key) => call<Recognition['restoreClass']>('post', '/classes/:key/restored', { params: { key } }),
      invalidatesTags: ['Finding', 'DetectorSet'],
    }),
    ownDetector: build.query<AnswerOf<Recognition['own']>, string>({
      query: (id) => call<Recognition['own']>('get', '/own-detectors/:id', { params: { id } }),
      providesTags: ['DetectorSet'],
    }),
    saveOwn: build.mutation<
      AnswerOf<Recognition['changeOwn']>,
      { id: string | null; version: number; body: BodyOf<'addOwn'> }
    >({
      query: ({ id, version, body }) =>
        id
          ? call<Recognition['changeOwn']>('put', '/own-detectors/:id', { params: { id }, version, body })
          : call<Recognition['addOwn']>('post', '/own-detectors', { body }),
      invalidatesTags: ['DetectorSet', 'Finding'],
    }),
    removeOwn: build.mutation<void, string>({
      query: (id) => call<Recognition['removeOwn']>('delete', '/own-detectors/:id', { params: { id } }),
      invalidatesTags: ['DetectorSet', 'Finding', 'Asset'],
    }),
    switchDetectors: build.mutation<void, BodyOf<'switchOff'>>({
      query: (body) => call<Recognition['switchOff']>('put', '/detectors-off', { body }),
      invalidatesTags: ['DetectorSet', 'Finding'],
    }),
    exampleFile: build.mutation<AnswerOf<Recognition['exampleFile']>, BodyOf<'exampleFile'>>({
      query: (body) => call<Recognition['exampleFile']>('post', '/example-file', { body }),
    }),
    columnValues: build.mutation<AnswerOf<Recognition['columnValues']>, BodyOf<'columnValues'>>({
      query: (body) => call<Recognition['columnValues']>('post', '/column-values', { body }),
    }),
    switchEffect: build.query<AnswerOf<Recognition['switchEffect']>, readonly string[]>({
      query: (ids) =>
        call<Recognition['switchEffect']>('get', '/detectors-off/effect', { query: { ids: ids.join(',') } }),
      providesTags: ['Finding', 'DetectorSet'],
    }),
    startTrial: build.mutation<AnswerOf<Recognition['startTrial']>, BodyOf<'startTrial'>>({
      query: (body) => call<Recognition['startTrial']>('post', '/detector-trials', { body }),
    }),
    trial: build.query<AnswerOf<Recognition['trial']>, string>({
      query: (id) => call<Recognition['trial']>('get', '/detector-trials/:id', { params: { id } }),
    }),
    stopTrial: build.mutation<AnswerOf<Recognition['stopTrial']>, string>({
      query: (id) => call<Recognition['stopTrial']>('post', '/detector-trials/:id/stopped', { params: { id } }),
    }),
    levelRules: build.query<AnswerOf<Recognition['levelRules']>, void>({
      query: () => call<Recognition['levelRules']>('get', '/level-rules'),
      providesTags: ['DetectorSet'],
    }),
    levelReasons: build.query<AnswerOf<Recognition['levelReasons']>, string>({
      query: (id) => call<Recognition['levelReasons']>('get', '/assets/:id/level-reasons', { params: { id } }),
      providesTags: ['Finding', 'DetectorSet'],
    }),
    levels: build.query<AnswerOf<Recognition['levels']>, void>({
      query: () => call<Recognition['levels']>('get', '/levels'),
      providesTags: ['Level'],
    }),
    saveLevel: build.mutation<
      AnswerOf<Recognition['changeLevel']>,
      { level: number; version: number; body: BodyOf<'changeLevel'> }
    >({
      query: ({ level, ...input }) =>
        call<Recognition['changeLevel']>('put', '/levels/:level', { params: { level }, ...input }),
      invalidatesTags: ['Level'],
    }),
    levelKinds: build.query<AnswerOf<Recognition['levelKinds']>, void>({
      query: () => call<Recognition['levelKinds']>('get', '/level-kinds'),
      providesTags: ['Level'],
    }),
    saveLevelKinds: build.mutation<
      AnswerOf<Recognition['changeLevelKinds']>,
      { version: number } & BodyOf<'changeLevelKinds'>
    >({
      query: ({ version, ...body }) => call<Recognition['changeLevelKinds']>('put', '/level-kinds', { version, body }),
      invalidatesTags: ['Level', 'Asset', 'DetectorSet'],
    }),
    certainty: build.query<AnswerOf<Recognition['certainty']>, void>({
      query: () => call<Recognition['certainty']>('get', '/certainty'),
      providesTags: ['Finding', 'DetectorSet'],
    }),
    certaintyPreview: build.query<AnswerOf<Recognition['previewCertainty']>, CertaintyChange>({
      query: (body) => call<Recognition['previewCertainty']>('post', '/certainty/preview', { body }),
      providesTags: ['Finding', 'DetectorSet'],
    }),
    saveThreshold: build.mutation<
      AnswerOf<Recognition['setThreshold']>,
      { classKey: string; version: number; body: BodyOf<'setThreshold'> }
    >({
      query: ({ classKey, ...input }) =>
        call<Recognition['setThreshold']>('put', '/certainty/thresholds/:key', { params: { key: classKey }, ...input }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    removeThreshold: build.mutation<void, string>({
      query: (key) => call<Recognition['removeThreshold']>('delete', '/certainty/thresholds/:key', { params: { key } }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    saveCertaintyRule: build.mutation<
      AnswerOf<Recognition['changeCertaintyRule']>,
      { id: string | null; version: number; body: BodyOf<'addCertaintyRule'> }
    >({
      query: ({ id, version, body }) =>
        id
          ? call<Recognition['changeCertaintyRule']>('put', '/certainty/rules/:id', { params: { id }, version, body })
          : call<Recognition['addCertaintyRule']>('post', '/certainty/rules', { body }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    removeCertaintyRule: build.mutation<void, string>({
      query: (id) => call<Recognition['removeCertaintyRule']>('delete', '/certainty/rules/:id', { params: { id } }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    forgetDismissal: build.mutation<void, string>({
      query: (id) => call<Recognition['forgetDismissal']>('delete', '/certainty/dismissals/:id', { params: { id } }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    levelPreview: build.query<AnswerOf<Recognition['previewLevelRule']>, LevelChange>({
      query: (body) => call<Recognition['previewLevelRule']>('post', '/level-rules/preview', { body }),
      providesTags: ['DetectorSet', 'Finding'],
    }),
    saveLevelRule: build.mutation<
      AnswerOf<Recognition['changeLevelRule']>,
      { id: string | null; version: number; body: BodyOf<'addLevelRule'> }
    >({
      query: ({ id, version, body }) =>
        id
          ? call<Recognition['changeLevelRule']>('put', '/level-rules/:id', { params: { id }, version, body })
          : call<Recognition['addLevelRule']>('post', '/level-rules', { body }),
      invalidatesTags: ['DetectorSet', 'Asset'],
    }),
    removeLevelRule: build.mutation<void, string>({
      query: (id) => call<Recognition['removeLevelRule']>('delete', '/level-rules/:id', { params: { id } }),
      invalidatesTags: ['DetectorSet', 'Asset'],
    }),
    importDetectors: build.mutation<AnswerOf<Recognition['imported']>, { file: BodyOf<'imported'>; preview: boolean }>({
      query: ({ file, preview }) =>
        call<Recognition['imported']>('post', '/detectors-file', { query: { preview }, body: file }),
      invalidatesTags: (_answer, _error, { preview }) => (preview ? [] : ['DetectorSet', 'Finding']),
    }),
  }),
});
export const {
  useClassesQuery,
  useSaveClassMutation,
  useCarriersQuery,
  useRemoveClassMutation,
  useRestoreClassMutation,
  useOwnDetectorQuery,
  useSaveOwnMutation,
  useRemoveOwnMutation,
  useSwitchDetectorsMutation,
  useColumnValuesMutation,
  useExampleFileMutation,
  useSwitchEffectQuery,
  useStartTrialMutation,
  useTrialQuery,
  useStopTrialMutation,
  useImportDetectorsMutation,
  useCertaintyPreviewQuery,
  useCertaintyQuery,
  useForgetDismissalMutation,
  useLevelKindsQuery,
  useLevelsQuery,
  useRemoveCertaintyRuleMutation,
  useRemoveThresholdMutation,
  useSaveCertaintyRuleMutation,
  useSaveLevelKindsMutation,
  useSaveLevelMutation,
  useSaveThresholdMutation,
  useLevelRulesQuery,
  useLevelReasonsQuery,
  useLevelPreviewQuery,
  useSaveLevelRuleMutation,
  useRemoveLevelRuleMutation,
} = ownApi;
