import type { DomainAnswer, GroupAnswer, PersonBrief } from '@idrel/contract/people';
import { api } from '../app/api.ts';

const peopleApi = api.injectEndpoints({
  endpoints: (build) => ({
    people: build.query<PersonBrief[], void>({ query: () => '/people' }),
    groups: build.query<GroupAnswer[], void>({ query: () => '/groups' }),
    domains: build.query<DomainAnswer[], void>({ query: () => '/domains' }),
  }),
});
export const { usePeopleQuery, useGroupsQuery, useDomainsQuery } = peopleApi;
