import type { sheetEndpoints } from '@idrel/contract/curation';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Sheets = typeof sheetEndpoints;
type Back = Input<Sheets['back']>['body'];

const sheetsApi = api.injectEndpoints({
  endpoints: (build) => ({
    exportAssets: build.query<AnswerOf<Sheets['out']>, Input<Sheets['out']>['query']>({
      query: (query) => call<Sheets['out']>('get', '/assets-file', { query }),
      keepUnusedDataFor: 0,
    }),
    previewSheet: build.mutation<AnswerOf<Sheets['back']>, Back>({
      query: (body) => call<Sheets['back']>('post', '/assets-file', { query: { preview: true }, body }),
    }),
    takeSheet: build.mutation<AnswerOf<Sheets['back']>, Back>({
      query: (body) => call<Sheets['back']>('post', '/assets-file', { query: {}, body }),
      invalidatesTags: ['Asset', 'Term', 'Tag'],
    }),
  }),
});
export const { useLazyExportAssetsQuery, usePreviewSheetMutation, useTakeSheetMutation } = sheetsApi;
