import type { CoverageAnswer, CoverageBy, GovernedBy, LevelReport } from '@idrel/contract/coverage';
import { api } from '../app/api.ts';

export const { useCoverageQuery, useLevelReportQuery } = api.injectEndpoints({
  endpoints: (build) => ({
    coverage: build.query<CoverageAnswer, GovernedBy>({
      query: (by) => ({ url: '/coverage', params: { by } }),
      providesTags: [{ type: 'Asset', id: 'figures' }, 'Source', 'Term', 'Finding'],
    }),
    levelReport: build.query<LevelReport, CoverageBy>({
      query: (by) => ({ url: '/coverage/levels', params: { by } }),
      providesTags: [{ type: 'Asset', id: 'figures' }, 'Source', 'Finding', 'DetectorSet'],
    }),
  }),
});
