import type { exchangeEndpoints, schemeEndpoints, TermAnswer, termEndpoints } from '@idrel/contract/glossary';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Schemes = typeof schemeEndpoints;
type Terms = typeof termEndpoints;
type Exchange = typeof exchangeEndpoints;
export type TermChange = Input<Terms['change']>['body'];
type SchemeBody = Input<Schemes['create']>['body'];
type FindQuery = Input<Terms['list']>['query'];
type Import = Input<Exchange['imported']>['body'];

const glossaryApi = api.injectEndpoints({
  endpoints: (build) => ({
    schemes: build.query<AnswerOf<Schemes['list']>, void>({
      query: () => call<Schemes['list']>('get', '/schemes'),
      providesTags: ['Term'],
    }),
    saveScheme: build.mutation<AnswerOf<Schemes['change']>, { id: string | null; version: number; body: SchemeBody }>({
      query: ({ id, version, body }) =>
        id
          ? call<Schemes['change']>('put', '/schemes/:id', { params: { id }, version, body })
          : call<Schemes['create']>('post', '/schemes', { body }),
      invalidatesTags: ['Term'],
    }),
    removeScheme: build.mutation<void, string>({
      query: (id) => call<Schemes['remove']>('delete', '/schemes/:id', { params: { id } }),
      invalidatesTags: ['Term'],
    }),
    findTerms: build.query<AnswerOf<Terms['list']>, FindQuery>({
      query: (query) => call<Terms['list']>('get', '/terms', { query }),
      providesTags: ['Term'],
    }),
    termTree: build.query<AnswerOf<Terms['tree']>, { scheme?: string; open?: string }>({
      query: (query) => call<Terms['tree']>('get', '/terms/tree', { query }),
      providesTags: ['Term', { type: 'Asset', id: 'figures' }],
    }),
    term: build.query<TermAnswer, string>({
      query: (id) => call<Terms['one']>('get', '/terms/:id', { params: { id } }),
      providesTags: ['Term', { type: 'Asset', id: 'figures' }],
    }),
    termConflicts: build.query<AnswerOf<Terms['conflicts']>, void>({
      query: () => call<Terms['conflicts']>('get', '/term-conflicts'),
      providesTags: ['Term', { type: 'Asset', id: 'figures' }],
    }),
    termCarriers: build.query<AnswerOf<Terms['carriers']>, string>({
      query: (id) => call<Terms['carriers']>('get', '/terms/:id/carriers', { params: { id } }),
      providesTags: ['Term', 'Tag'],
    }),
    termsOfCarrier: build.query<AnswerOf<Terms['ofCarrier']>, Input<Terms['ofCarrier']>['query']>({
      query: (query) => call<Terms['ofCarrier']>('get', '/term-carriers', { query }),
      providesTags: ['Term'],
    }),
    carryTerm: build.mutation<AnswerOf<Terms['carry']>, { id: string } & Input<Terms['carry']>['body']>({
      query: ({ id, ...body }) => call<Terms['carry']>('post', '/terms/:id/carriers', { params: { id }, body }),
      invalidatesTags: ['Term'],
    }),
    createTerm: build.mutation<TermAnswer, Input<Terms['create']>['body']>({
      query: (body) => call<Terms['create']>('post', '/terms', { body }),
      invalidatesTags: ['Term'],
    }),
    changeTerm: build.mutation<TermAnswer, { id: string; version: number; change: TermChange }>({
      query: ({ id, version, change }) =>
        call<Terms['change']>('patch', '/terms/:id', { params: { id }, version, body: change }),
      invalidatesTags: ['Term', 'Asset'],
    }),
    removeTerm: build.mutation<void, string>({
      query: (id) => call<Terms['remove']>('delete', '/terms/:id', { params: { id } }),
      invalidatesTags: ['Term', 'Asset'],
    }),
    bringBackTerm: build.mutation<TermAnswer, string>({
      query: (id) => call<Terms['bringBack']>('post', '/terms/:id/bring-back', { params: { id } }),
      invalidatesTags: ['Term', 'Asset'],
    }),
    exportGlossary: build.query<AnswerOf<Exchange['exported']>, Input<Exchange['exported']>['query']>({
      query: (query) => call<Exchange['exported']>('get', '/glossary-file', { query }),
      // A file is made when it is asked for, and kept by whoever asked.
      keepUnusedDataFor: 0,
    }),
    previewGlossary: build.mutation<AnswerOf<Exchange['imported']>, Import>({
      query: (body) => call<Exchange['imported']>('post', '/glossary-file', { query: { preview: true }, body }),
    }),
    importGlossary: build.mutation<AnswerOf<Exchange['imported']>, Import>({
      query: (body) => call<Exchange['imported']>('post', '/glossary-file', { query: {}, body }),
      invalidatesTags: ['Term', 'Asset'],
    }),
  }),
});
export const {
  useSchemesQuery,
  useSaveSchemeMutation,
  useRemoveSchemeMutation,
  useFindTermsQuery,
  useTermTreeQuery,
  useTermQuery,
  useTermConflictsQuery,
  useTermCarriersQuery,
  useTermsOfCarrierQuery,
  useCarryTermMutation,
  useCreateTermMutation,
  useChangeTermMutation,
  useRemoveTermMutation,
  useBringBackTermMutation,
  useLazyExportGlossaryQuery,
  usePreviewGlossaryMutation,
  useImportGlossaryMutation,
} = glossaryApi;
