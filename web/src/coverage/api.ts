import type { CoverageBy, coverageEndpoints } from '@idrel/contract/coverage';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api, MARKS } from '../app/api.ts';

type Coverage = typeof coverageEndpoints;
/** Figures follow what assets are and carry. */
const FIGURES = { type: 'Asset', id: 'figures' } as const;

export const {
  useCoverageQuery,
  useLevelReportQuery,
  useCoverageCourseQuery,
  useTargetsQuery,
  useSaveTargetMutation,
  useRemoveTargetMutation,
  useRoomPriceQuery,
  useSetRoomPriceMutation,
  useCoverageUseQuery,
  useCoverageWeekQuery,
  useReportReaderQuery,
  useSetReportReaderMutation,
} = api.injectEndpoints({
  endpoints: (build) => ({
    coverage: build.query<AnswerOf<Coverage['read']>, Input<Coverage['read']>['query']>({
      query: (query) => call<Coverage['read']>('get', '/coverage', { query }),
      providesTags: [FIGURES, 'Source', 'Term', 'Finding'],
    }),
    levelReport: build.query<AnswerOf<Coverage['levels']>, CoverageBy>({
      query: (by) => call<Coverage['levels']>('get', '/coverage/levels', { query: { by } }),
      providesTags: [FIGURES, 'Source', 'Finding', 'DetectorSet'],
    }),
    coverageCourse: build.query<AnswerOf<Coverage['course']>, Input<Coverage['course']>['query']>({
      query: (query) => call<Coverage['course']>('get', '/coverage/course', { query }),
      providesTags: [FIGURES],
    }),
    targets: build.query<AnswerOf<Coverage['targets']>, void>({
      query: () => call<Coverage['targets']>('get', '/coverage/targets'),
      providesTags: ['Target', FIGURES],
    }),
    saveTarget: build.mutation<
      AnswerOf<Coverage['changeTarget']>,
      { id: string | null; version: number; body: Input<Coverage['addTarget']>['body'] }
    >({
      query: ({ id, version, body }) =>
        id
          ? call<Coverage['changeTarget']>('put', '/coverage/targets/:id', { params: { id }, version, body })
          : call<Coverage['addTarget']>('post', '/coverage/targets', { body }),
      invalidatesTags: ['Target'],
    }),
    removeTarget: build.mutation<void, string>({
      query: (id) => call<Coverage['removeTarget']>('delete', '/coverage/targets/:id', { params: { id } }),
      invalidatesTags: ['Target'],
    }),
    roomPrice: build.query<AnswerOf<Coverage['price']>, void>({
      query: () => call<Coverage['price']>('get', '/coverage/price'),
      providesTags: ['Price'],
    }),
    setRoomPrice: build.mutation<
      AnswerOf<Coverage['setPrice']>,
      { version: number; body: Input<Coverage['setPrice']>['body'] }
    >({
      query: ({ version, body }) => call<Coverage['setPrice']>('put', '/coverage/price', { version, body }),
      invalidatesTags: ['Price'],
    }),
    coverageUse: build.query<AnswerOf<Coverage['use']>, Input<Coverage['use']>['query']>({
      query: (query) => call<Coverage['use']>('get', '/coverage/use', { query }),
      providesTags: [FIGURES, 'Source'],
    }),
    coverageWeek: build.query<AnswerOf<Coverage['week']>, void>({
      query: () => call<Coverage['week']>('get', '/coverage/week'),
      providesTags: [FIGURES, 'Finding', 'Request', 'Review', 'Routine', MARKS],
    }),
    reportReader: build.query<AnswerOf<Coverage['reports']>, void>({
      query: () => call<Coverage['reports']>('get', '/coverage/report-reader'),
      providesTags: ['Report'],
    }),
    setReportReader: build.mutation<AnswerOf<Coverage['setReports']>, boolean>({
      query: (sent) => call<Coverage['setReports']>('put', '/coverage/report-reader', { body: { sent } }),
      invalidatesTags: ['Report'],
    }),
  }),
});
