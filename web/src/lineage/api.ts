import type { drawnEndpoints } from '@idrel/contract/curation';
import type { AnswerOf, SentBody } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type {
  causeEndpoints,
  keptViewEndpoints,
  lineageEndpoints,
  proposedEndpoints,
  saidEndpoints,
  statementEndpoints,
} from '@idrel/contract/lineage';
import { api, MARKS } from '../app/api.ts';

type Lineage = typeof lineageEndpoints;
type Said = typeof saidEndpoints;
type Causes = typeof causeEndpoints;
type Views = typeof keptViewEndpoints;
type Proposed = typeof proposedEndpoints;
type Statements = (typeof statementEndpoints)['statements'];
type Drawn = typeof drawnEndpoints;

/** What is said of edges changes what is drawn and followed. */
const EDGES = { type: 'Asset', id: 'edges' } as const;

const lineageApi = api.injectEndpoints({
  endpoints: (build) => ({
    fieldOrigins: build.query<AnswerOf<Lineage['origins']>, string>({
      query: (asset) => call<Lineage['origins']>('get', '/lineage/origins', { query: { asset } }),
      providesTags: ['Run', EDGES],
    }),
    lineage: build.query<AnswerOf<Lineage['picture']>, Input<Lineage['picture']>['query']>({
      query: (query) => call<Lineage['picture']>('get', '/lineage', { query }),
      providesTags: [MARKS, EDGES],
    }),
    lineageColumns: build.query<AnswerOf<Lineage['columns']>, Input<Lineage['columns']>['body']>({
      query: (body) => call<Lineage['columns']>('post', '/lineage/columns', { body }),
      providesTags: [MARKS, EDGES],
    }),
    moments: build.query<AnswerOf<Lineage['moments']>, string>({
      query: (asset) => call<Lineage['moments']>('get', '/lineage/moments', { query: { asset } }),
      providesTags: ['Run', EDGES],
    }),
    impact: build.query<AnswerOf<Lineage['impact']>, Input<Lineage['impact']>['query']>({
      query: (query) => call<Lineage['impact']>('get', '/lineage/impact', { query }),
      providesTags: [MARKS, EDGES],
    }),
    pictureFile: build.mutation<AnswerOf<Lineage['pictureFile']>, Input<Lineage['pictureFile']>['query']>({
      query: (query) => call<Lineage['pictureFile']>('get', '/lineage/file', { query }),
    }),
    lineageExport: build.mutation<AnswerOf<Lineage['exported']>, string>({
      query: (id) => call<Lineage['exported']>('get', '/sources/:id/lineage-export', { params: { id } }),
    }),
    impactSheet: build.mutation<AnswerOf<Lineage['impactSheet']>, Input<Lineage['impactSheet']>['query']>({
      query: (query) => call<Lineage['impactSheet']>('get', '/lineage/impact-sheet', { query }),
    }),
    causes: build.query<AnswerOf<Causes['causes']>, Input<Causes['causes']>['query']>({
      query: (query) => call<Causes['causes']>('get', '/lineage/causes', { query }),
      providesTags: ['Run', MARKS, EDGES],
    }),
    proposed: build.query<AnswerOf<Proposed['proposed']>, Input<Proposed['proposed']>['query']>({
      query: (query) => call<Proposed['proposed']>('get', '/lineage/proposed', { query }),
      providesTags: [MARKS, EDGES],
    }),
    tellOfProposed: build.mutation<AnswerOf<Proposed['tell']>, Input<Proposed['tell']>['body']>({
      query: (body) => call<Proposed['tell']>('post', '/lineage/proposed/message', { body }),
      invalidatesTags: ['Discussion'],
    }),
    /** Which tables of a picture a filter finds. */
    fitting: build.query<AnswerOf<Views['fitting']>, Input<Views['fitting']>['body']>({
      query: (body) => call<Views['fitting']>('post', '/lineage/fitting', { body }),
      providesTags: ['Finding', 'Asset'],
    }),
    keptViews: build.query<AnswerOf<Views['list']>, void>({
      query: () => call<Views['list']>('get', '/lineage/views'),
      providesTags: ['View'],
    }),
    keptView: build.query<AnswerOf<Views['get']>, string>({
      query: (id) => call<Views['get']>('get', '/lineage/views/:id', { params: { id } }),
      providesTags: ['View'],
    }),
    keepView: build.mutation<
      AnswerOf<Views['change']>,
      { id: string | null; version: number; body: Input<Views['create']>['body'] }
    >({
      query: ({ id, version, body }) =>
        id
          ? call<Views['change']>('put', '/lineage/views/:id', { params: { id }, version, body })
          : call<Views['create']>('post', '/lineage/views', { body }),
      invalidatesTags: ['View'],
    }),
    removeView: build.mutation<void, string>({
      query: (id) => call<Views['remove']>('delete', '/lineage/views/:id', { params: { id } }),
      invalidatesTags: ['View'],
    }),
    bringBackView: build.mutation<AnswerOf<Views['bringBack']>, string>({
      query: (id) => call<Views['bringBack']>('post', '/lineage/views/:id/bring-back', { params: { id } }),
      invalidatesTags: ['View'],
    }),
    statements: build.query<AnswerOf<Statements>, { id: string } & Input<Statements>['query']>({
      query: ({ id, ...query }) => call<Statements>('get', '/sources/:id/statements', { params: { id }, query }),
      providesTags: ['Run'],
    }),
    edges: build.query<AnswerOf<Said['edges']>, Input<Said['edges']>['query']>({
      query: (query) => call<Said['edges']>('get', '/lineage/edges', { query }),
      providesTags: [EDGES],
    }),
    drawAsset: build.mutation<AnswerOf<Drawn['draw']>, Input<Drawn['draw']>['body']>({
      query: (body) => call<Drawn['draw']>('post', '/drawn-assets', { body }),
      invalidatesTags: ['Asset', 'Source'],
    }),
    takeDrawnAway: build.mutation<void, string>({
      query: (id) => call<Drawn['takeAway']>('delete', '/drawn-assets/:id', { params: { id } }),
      invalidatesTags: ['Asset', 'Source'],
    }),
    sayEdges: build.mutation<AnswerOf<Said['say']>, Input<Said['say']>['body']['edges']>({
      query: (edges) => call<Said['say']>('post', '/lineage/edges', { body: { edges } }),
      invalidatesTags: [EDGES],
    }),
    previewEdges: build.mutation<AnswerOf<Said['sheet']>, SentBody<Said['sheet']>>({
      query: (body) => call<Said['sheet']>('post', '/lineage/edges-file', { query: { preview: true }, body }),
    }),
    takeEdges: build.mutation<AnswerOf<Said['sheet']>, SentBody<Said['sheet']>>({
      query: (body) => call<Said['sheet']>('post', '/lineage/edges-file', { query: {}, body }),
      invalidatesTags: [EDGES, 'Finding', 'Asset'],
    }),
    unsayEdge: build.mutation<void, string>({
      query: (id) => call<Said['unsay']>('delete', '/lineage/edges/:id', { params: { id } }),
      invalidatesTags: [EDGES],
    }),
    sayWrong: build.mutation<void, Input<Said['wrong']>['body']>({
      query: (body) => call<Said['wrong']>('put', '/lineage/wrong', { body }),
      invalidatesTags: [EDGES],
    }),
    sayRight: build.mutation<void, Input<Said['right']>['query']>({
      query: (query) => call<Said['right']>('delete', '/lineage/wrong', { query }),
      invalidatesTags: [EDGES],
    }),
  }),
});
export const {
  useFittingQuery,
  useKeptViewsQuery,
  useKeptViewQuery,
  useKeepViewMutation,
  useRemoveViewMutation,
  useBringBackViewMutation,
  useFieldOriginsQuery,
  useLineageColumnsQuery,
  useLineageQuery,
  useImpactQuery,
  useMomentsQuery,
  useImpactSheetMutation,
  useLineageExportMutation,
  usePictureFileMutation,
  useDrawAssetMutation,
  useTakeDrawnAwayMutation,
  useCausesQuery,
  useProposedQuery,
  useTellOfProposedMutation,
  useEdgesQuery,
  useStatementsQuery,
  useSayEdgesMutation,
  usePreviewEdgesMutation,
  useTakeEdgesMutation,
  useUnsayEdgeMutation,
  useSayWrongMutation,
  useSayRightMutation,
} = lineageApi;
