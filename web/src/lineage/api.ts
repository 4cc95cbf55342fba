import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { lineageEndpoints } from '@idrel/contract/lineage';
import { api, MARKS } from '../app/api.ts';

type Lineage = typeof lineageEndpoints;

const lineageApi = api.injectEndpoints({
  endpoints: (build) => ({
    fieldOrigins: build.query<AnswerOf<Lineage['origins']>, string>({
      query: (asset) => call<Lineage['origins']>('get', '/lineage/origins', { query: { asset } }),
      providesTags: ['Run'],
    }),
    lineage: build.query<AnswerOf<Lineage['picture']>, Input<Lineage['picture']>['query']>({
      query: (query) => call<Lineage['picture']>('get', '/lineage', { query }),
      providesTags: [MARKS],
    }),
    impact: build.query<AnswerOf<Lineage['impact']>, Input<Lineage['impact']>['query']>({
      query: (query) => call<Lineage['impact']>('get', '/lineage/impact', { query }),
      providesTags: [MARKS],
    }),
  }),
});
export const { useFieldOriginsQuery, useLineageQuery, useImpactQuery } = lineageApi;
