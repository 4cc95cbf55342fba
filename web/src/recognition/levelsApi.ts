import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { recognitionEndpoints } from '@idrel/contract/recognition';
import { api } from '../app/api.ts';

type Recognition = typeof recognitionEndpoints;
type BodyOf<K extends keyof Recognition> = Input<Recognition[K]> extends { readonly body: infer B } ? B : never;
/** What would be other than it is, for the preview of levels. */
export type LevelChange = BodyOf<'previewLevelRule'>;

const levelsApi = api.injectEndpoints({
  endpoints: (build) => ({
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
  }),
});
export const {
  useLevelKindsQuery,
  useLevelsQuery,
  useSaveLevelKindsMutation,
  useSaveLevelMutation,
  useLevelRulesQuery,
  useLevelReasonsQuery,
  useLevelPreviewQuery,
  useSaveLevelRuleMutation,
  useRemoveLevelRuleMutation,
} = levelsApi;
