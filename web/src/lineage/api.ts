import type { ImpactRow, LineageAnswer } from '@idrel/contract/lineage';
import { api } from '../app/api.ts';

const lineageApi = api.injectEndpoints({
  endpoints: (build) => ({
    lineage: build.query<LineageAnswer, { focus: string; upstream: number; downstream: number }>({
      query: (params) => ({ url: '/lineage', params }),
      providesTags: ['Asset'],
    }),
    impact: build.query<ImpactRow[], { asset: string; direction: 'upstream' | 'downstream' }>({
      query: (params) => ({ url: '/lineage/impact', params }),
      providesTags: ['Asset'],
    }),
  }),
});
export const { useLineageQuery, useImpactQuery } = lineageApi;
