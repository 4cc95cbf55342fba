import type {
  CertaintyAnswer,
  CertaintyPreview,
  CertaintyRuleAnswer,
  CertaintyRuleBody,
  ClassAnswer,
  ClassBody,
  ClassCarriers,
  DetectorFile,
  ExampleColumn,
  ImportAnswer,
  LevelAnswer,
  LevelKindsAnswer,
  LevelPreview,
  LevelRuleAnswer,
  LevelRuleBody,
  LevelText,
  OwnDetectorAnswer,
  OwnDetectorBody,
  SwitchEffect,
  ThresholdAnswer,
  ThresholdBody,
  TrialAnswer,
} from '@idrel/contract/recognition';
import type { DetectorSpec } from '@idrel/core/recognition/spec';
import { api } from '../app/api.ts';

const current = (version: number) => ({ 'if-match': `"v${version}"` });

/** What would be other than it is, for the preview of levels. */
export type LevelChange =
  | { id: string | null; rule: LevelRuleBody | null }
  | { kinds: readonly string[] }
  | { classKey: string; level: number };
/** What would be other than it is, for the preview of findings. */
export type CertaintyChange =
  | { id: string | null; rule: CertaintyRuleBody | null }
  | { classKey: string; threshold: ThresholdBody | null };

const ownApi = api.injectEndpoints({
  endpoints: (build) => ({
    classes: build.query<ClassAnswer[], void>({ query: () => '/classes', providesTags: ['Finding', 'DetectorSet'] }),
    saveClass: build.mutation<ClassAnswer, { key: string | null; version: number; body: ClassBody }>({
      query: ({ key, version, body }) => ({
        url: key ? `/classes/${key}` : '/classes',
        method: key ? 'PUT' : 'POST',
        body,
        headers: current(version),
      }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    carriers: build.query<ClassCarriers, string>({
      query: (key) => `/classes/${key}/carriers`,
      providesTags: ['Finding'],
    }),
    removeClass: build.mutation<void, { key: string; columns: number }>({
      query: ({ key, columns }) => ({ url: `/classes/${key}?columns=${columns}`, method: 'DELETE' }),
      invalidatesTags: ['Finding', 'Asset', 'DetectorSet'],
    }),
    restoreClass: build.mutation<ClassAnswer, string>({
      query: (key) => ({ url: `/classes/${key}/restored`, method: 'POST' }),
      invalidatesTags: ['Finding', 'DetectorSet'],
    }),
    ownDetector: build.query<OwnDetectorAnswer, string>({
      query: (id) => `/own-detectors/${id}`,
      providesTags: ['DetectorSet'],
    }),
    saveOwn: build.mutation<OwnDetectorAnswer, { id: string | null; version: number; body: OwnDetectorBody }>({
      query: ({ id, version, body }) => ({
        url: id ? `/own-detectors/${id}` : '/own-detectors',
        method: id ? 'PUT' : 'POST',
        body,
        headers: current(version),
      }),
      invalidatesTags: ['DetectorSet', 'Finding'],
    }),
    removeOwn: build.mutation<void, string>({
      query: (id) => ({ url: `/own-detectors/${id}`, method: 'DELETE' }),
      invalidatesTags: ['DetectorSet', 'Finding', 'Asset'],
    }),
    switchDetectors: build.mutation<void, { ids: readonly string[]; off: boolean }>({
      query: (body) => ({ url: '/detectors-off', method: 'PUT', body }),
      invalidatesTags: ['DetectorSet', 'Finding'],
    }),
    exampleFile: build.mutation<{ columns: ExampleColumn[] }, { name: string; content: string; rows?: number }>({
      query: (body) => ({ url: '/example-file', method: 'POST', body }),
    }),
    columnValues: build.mutation<{ name: string; path: string; values: string[] }, { assetId: string; rows: number }>({
      query: (body) => ({ url: '/column-values', method: 'POST', body }),
    }),
    switchEffect: build.query<SwitchEffect, readonly string[]>({
      query: (ids) => ({ url: '/detectors-off/effect', params: { ids: ids.join(',') } }),
      providesTags: ['Finding', 'DetectorSet'],
    }),
    startTrial: build.mutation<TrialAnswer, { classKey: string; detectorId: string | null; spec: DetectorSpec }>({
      query: (body) => ({ url: '/detector-trials', method: 'POST', body }),
    }),
    trial: build.query<TrialAnswer, string>({ query: (id) => `/detector-trials/${id}` }),
    stopTrial: build.mutation<TrialAnswer, string>({
      query: (id) => ({ url: `/detector-trials/${id}/stopped`, method: 'POST' }),
    }),
    levelRules: build.query<LevelRuleAnswer[], void>({ query: () => '/level-rules', providesTags: ['DetectorSet'] }),
    levelReasons: build.query<string[], string>({
      query: (id) => `/assets/${id}/level-reasons`,
      providesTags: ['Finding', 'DetectorSet'],
    }),
    levels: build.query<LevelAnswer[], void>({ query: () => '/levels', providesTags: ['Level'] }),
    saveLevel: build.mutation<LevelAnswer, { level: number; version: number; body: LevelText }>({
      query: ({ level, version, body }) => ({
        url: `/levels/${level}`,
        method: 'PUT',
        body,
        headers: current(version),
      }),
      invalidatesTags: ['Level'],
    }),
    levelKinds: build.query<LevelKindsAnswer, void>({ query: () => '/level-kinds', providesTags: ['Level'] }),
    saveLevelKinds: build.mutation<LevelKindsAnswer, { version: number; kinds: readonly string[] }>({
      query: ({ version, kinds }) => ({
        url: '/level-kinds',
        method: 'PUT',
        body: { kinds },
        headers: current(version),
      }),
      invalidatesTags: ['Level', 'Asset', 'DetectorSet'],
    }),
    certainty: build.query<CertaintyAnswer, void>({
      query: () => '/certainty',
      providesTags: ['Finding', 'DetectorSet'],
    }),
    certaintyPreview: build.query<CertaintyPreview, CertaintyChange>({
      query: (body) => ({ url: '/certainty/preview', method: 'POST', body }),
      providesTags: ['Finding', 'DetectorSet'],
    }),
    saveThreshold: build.mutation<ThresholdAnswer, { classKey: string; version: number; body: ThresholdBody }>({
      query: ({ classKey, version, body }) => ({
        url: `/certainty/thresholds/${classKey}`,
        method: 'PUT',
        body,
        headers: current(version),
      }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    removeThreshold: build.mutation<void, string>({
      query: (classKey) => ({ url: `/certainty/thresholds/${classKey}`, method: 'DELETE' }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    saveCertaintyRule: build.mutation<
      CertaintyRuleAnswer,
      { id: string | null; version: number; body: CertaintyRuleBody }
    >({
      query: ({ id, version, body }) => ({
        url: id ? `/certainty/rules/${id}` : '/certainty/rules',
        method: id ? 'PUT' : 'POST',
        body,
        headers: current(version),
      }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    removeCertaintyRule: build.mutation<void, string>({
      query: (id) => ({ url: `/certainty/rules/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    forgetDismissal: build.mutation<void, string>({
      query: (id) => ({ url: `/certainty/dismissals/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Finding', 'Asset'],
    }),
    levelPreview: build.query<LevelPreview, LevelChange>({
      query: (body) => ({ url: '/level-rules/preview', method: 'POST', body }),
      providesTags: ['DetectorSet', 'Finding'],
    }),
    saveLevelRule: build.mutation<LevelRuleAnswer, { id: string | null; version: number; body: LevelRuleBody }>({
      query: ({ id, version, body }) => ({
        url: id ? `/level-rules/${id}` : '/level-rules',
        method: id ? 'PUT' : 'POST',
        body,
        headers: current(version),
      }),
      invalidatesTags: ['DetectorSet', 'Asset'],
    }),
    removeLevelRule: build.mutation<void, string>({
      query: (id) => ({ url: `/level-rules/${id}`, method: 'DELETE' }),
      invalidatesTags: ['DetectorSet', 'Asset'],
    }),
    importDetectors: build.mutation<ImportAnswer, { file: DetectorFile; preview: boolean }>({
      query: ({ file, preview }) => ({ url: `/detectors-file?preview=${preview}`, method: 'POST', body: file }),
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
