import type { AnswerOf } from '@idrel/contract/http';
import { call } from '@idrel/contract/http/address';
import type { peopleEndpoints } from '@idrel/contract/people';
import { api } from '../app/api.ts';

type People = typeof peopleEndpoints;

const peopleApi = api.injectEndpoints({
  endpoints: (build) => ({
    people: build.query<AnswerOf<People['people']>, void>({ query: () => call<People['people']>('get', '/people') }),
    groups: build.query<AnswerOf<People['groups']>, void>({ query: () => call<People['groups']>('get', '/groups') }),
    domains: build.query<AnswerOf<People['domains']>, void>({
      query: () => call<People['domains']>('get', '/domains'),
      providesTags: ['Domain'],
    }),
    showOutside: build.mutation<AnswerOf<People['showOutside']>, { id: string; shown: boolean }>({
      query: ({ id, shown }) =>
        call<People['showOutside']>('put', '/domains/:id/shown-outside', { params: { id }, body: { shown } }),
      invalidatesTags: ['Domain'],
    }),
  }),
});
export const { usePeopleQuery, useGroupsQuery, useDomainsQuery, useShowOutsideMutation } = peopleApi;
