import type { TermAnswer } from '@idrel/contract/glossary';
import { api } from '../app/api.ts';

export type TermChange = Partial<Pick<TermAnswer, 'name' | 'definition' | 'broaderId' | 'status' | 'ownerId'>> & {
  otherNames?: string[];
};
const glossaryApi = api.injectEndpoints({
  endpoints: (build) => ({
    terms: build.query<TermAnswer[], void>({ query: () => '/terms', providesTags: ['Term'] }),
    createTerm: build.mutation<TermAnswer, TermChange & { name: string }>({
      query: (body) => ({ url: '/terms', method: 'POST', body }),
      invalidatesTags: ['Term'],
    }),
    changeTerm: build.mutation<TermAnswer, { id: string; version: number; change: TermChange }>({
      query: ({ id, version, change }) => ({
        url: `/terms/${id}`,
        method: 'PATCH',
        body: change,
        headers: { 'if-match': `"v${version}"` },
      }),
      invalidatesTags: ['Term', 'Asset'],
    }),
  }),
});
export const { useTermsQuery, useCreateTermMutation, useChangeTermMutation } = glossaryApi;
