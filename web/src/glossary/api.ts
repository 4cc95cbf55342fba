import type { glossaryEndpoints } from '@idrel/contract/glossary';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Glossary = typeof glossaryEndpoints;
export type TermChange = Input<Glossary['change']>['body'];

const glossaryApi = api.injectEndpoints({
  endpoints: (build) => ({
    terms: build.query<AnswerOf<Glossary['list']>, void>({
      query: () => call<Glossary['list']>('get', '/terms'),
      providesTags: ['Term'],
    }),
    createTerm: build.mutation<AnswerOf<Glossary['create']>, Input<Glossary['create']>['body']>({
      query: (body) => call<Glossary['create']>('post', '/terms', { body }),
      invalidatesTags: ['Term'],
    }),
    changeTerm: build.mutation<AnswerOf<Glossary['change']>, { id: string; version: number; change: TermChange }>({
      query: ({ id, version, change }) =>
        call<Glossary['change']>('patch', '/terms/:id', { params: { id }, version, body: change }),
      invalidatesTags: ['Term', 'Asset'],
    }),
  }),
});
export const { useTermsQuery, useCreateTermMutation, useChangeTermMutation } = glossaryApi;
