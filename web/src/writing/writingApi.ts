import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { discussionEndpoints, guideEndpoints } from '@idrel/contract/writing';
import { api, MARKS } from '../app/api.ts';

type Guides = typeof guideEndpoints;
type Discussions = typeof discussionEndpoints;

const base64 = (file: Blob): Promise<string> =>
  new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(String(reader.result).split(',')[1] ?? '');
    reader.onerror = () => reject(reader.error);
    reader.readAsDataURL(file);
  });

const writingApi = api.injectEndpoints({
  endpoints: (build) => ({
    guide: build.query<AnswerOf<Guides['guide']>, string>({
      query: (id) => call<Guides['guide']>('get', '/assets/:id/guide', { params: { id } }),
      providesTags: (_answer, _error, id) => [{ type: 'Guide', id }],
    }),
    saveGuide: build.mutation<AnswerOf<Guides['save']>, { id: string; version: number; text: string }>({
      query: ({ id, version, text }) =>
        call<Guides['save']>('put', '/assets/:id/guide', { params: { id }, version, body: { text } }),
      // The history of the asset tells of it, too.
      invalidatesTags: (_answer, _error, { id }) => [
        { type: 'Guide', id },
        { type: 'Asset', id },
      ],
    }),
    guideVersions: build.query<AnswerOf<Guides['versions']>, string>({
      query: (id) => call<Guides['versions']>('get', '/assets/:id/guide/versions', { params: { id } }),
      providesTags: (_answer, _error, id) => [{ type: 'Guide', id }],
    }),
    guideVersion: build.query<AnswerOf<Guides['version']>, { id: string; version: number }>({
      query: (params) => call<Guides['version']>('get', '/assets/:id/guide/versions/:version', { params }),
    }),
    writersHere: build.mutation<AnswerOf<Guides['here']>, { id: string; writing: boolean }>({
      query: ({ id, ...body }) => call<Guides['here']>('put', '/assets/:id/guide/here', { params: { id }, body }),
    }),
    mentionable: build.query<AnswerOf<Guides['mentionable']>, string>({
      query: (q) => call<Guides['mentionable']>('get', '/mentionable', { query: { q } }),
      keepUnusedDataFor: 30,
    }),
    addPicture: build.mutation<AnswerOf<Guides['addPicture']>, { assetId: string; file: Blob }>({
      queryFn: async ({ assetId: id, file }, _api, _extra, send) => {
        const content = await base64(file);
        const sent = await send(
          call<Guides['addPicture']>('post', '/assets/:id/pictures', { params: { id }, body: { content } }),
        );
        return sent.error ? { error: sent.error } : { data: sent.data as AnswerOf<Guides['addPicture']> };
      },
    }),
    guideTemplates: build.query<AnswerOf<Guides['templates']>, void>({
      query: () => call<Guides['templates']>('get', '/guide-templates'),
      providesTags: ['Guide'],
    }),
    changeGuideTemplate: build.mutation<
      AnswerOf<Guides['changeTemplate']>,
      { kind: Input<Guides['changeTemplate']>['params']['kind']; version: number; text: string }
    >({
      query: ({ kind, version, text }) =>
        call<Guides['changeTemplate']>('put', '/guide-templates/:kind', { params: { kind }, version, body: { text } }),
      invalidatesTags: ['Guide'],
    }),
    discussions: build.query<AnswerOf<Discussions['list']>, { id: string; settled: boolean }>({
      query: ({ id, settled }) =>
        call<Discussions['list']>('get', '/assets/:id/discussions', { params: { id }, query: { settled } }),
      providesTags: ['Discussion'],
    }),
    beginDiscussion: build.mutation<
      AnswerOf<Discussions['begin']>,
      { assetId: string; question: boolean; text: string }
    >({
      query: ({ assetId: id, ...body }) =>
        call<Discussions['begin']>('post', '/assets/:id/discussions', { params: { id }, body }),
      invalidatesTags: ['Discussion', MARKS],
    }),
    addRemark: build.mutation<AnswerOf<Discussions['remark']>, { id: string; text: string }>({
      query: ({ id, text }) =>
        call<Discussions['remark']>('post', '/discussions/:id/remarks', { params: { id }, body: { text } }),
      invalidatesTags: ['Discussion', MARKS],
    }),
    changeRemark: build.mutation<AnswerOf<Discussions['changeRemark']>, { id: string; version: number; text: string }>({
      query: ({ id, version, text }) =>
        call<Discussions['changeRemark']>('put', '/remarks/:id', { params: { id }, version, body: { text } }),
      invalidatesTags: ['Discussion'],
    }),
    removeRemark: build.mutation<void, string>({
      query: (id) => call<Discussions['removeRemark']>('delete', '/remarks/:id', { params: { id } }),
      invalidatesTags: ['Discussion'],
    }),
    bringBackRemark: build.mutation<AnswerOf<Discussions['bringBackRemark']>, string>({
      query: (id) => call<Discussions['bringBackRemark']>('post', '/remarks/:id/bring-back', { params: { id } }),
      invalidatesTags: ['Discussion'],
    }),
    settleDiscussion: build.mutation<
      AnswerOf<Discussions['settle']>,
      { id: string; version: number; settled: boolean; answerId?: string }
    >({
      query: ({ id, version, ...body }) =>
        call<Discussions['settle']>('put', '/discussions/:id/settled', { params: { id }, version, body }),
      invalidatesTags: ['Discussion', MARKS],
    }),
    noteDiscussion: build.mutation<void, { id: string; noted: boolean }>({
      query: ({ id, noted }) =>
        call<Discussions['noted']>('put', '/discussions/:id/noted', { params: { id }, body: { noted } }),
      invalidatesTags: [MARKS],
    }),
  }),
});
export const {
  useGuideQuery,
  useSaveGuideMutation,
  useGuideVersionsQuery,
  useGuideVersionQuery,
  useWritersHereMutation,
  useLazyMentionableQuery,
  useAddPictureMutation,
  useGuideTemplatesQuery,
  useChangeGuideTemplateMutation,
  useDiscussionsQuery,
  useBeginDiscussionMutation,
  useAddRemarkMutation,
  useChangeRemarkMutation,
  useRemoveRemarkMutation,
  useBringBackRemarkMutation,
  useSettleDiscussionMutation,
  useNoteDiscussionMutation,
} = writingApi;
