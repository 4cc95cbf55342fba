import type { accessEndpoints } from '@idrel/contract/access';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import type { partnerEndpoints } from '@idrel/contract/people';
import { api } from '../app/api.ts';

type Access = typeof accessEndpoints;
type Partners = typeof partnerEndpoints;

/** What a share opens stands in policies. */
const CHANGED = ['Share', 'Policy'] as const;

/** What came of a query: the names of its columns, and rows. */
export interface Lines {
  readonly columns: readonly string[];
  readonly rows: readonly (readonly (string | null)[])[];
  readonly capped: boolean;
}

/** Reads an answer that comes as lines; the problem, where one stands in the last of them. */
export function readLines(text: string): Lines | { readonly problem: unknown } {
  const [first = '[]', ...lines] = text.split('\n').filter(Boolean);
  const last: unknown = JSON.parse(lines.pop() ?? '{}');
  const { problem, capped = false } = last as { problem?: unknown; capped?: boolean };
  if (problem) return { problem };
  return {
    columns: JSON.parse(first) as string[],
    rows: lines.map((line) => JSON.parse(line) as (string | null)[]),
    capped,
  };
}

const sharesApi = api.injectEndpoints({
  endpoints: (build) => ({
    shares: build.query<AnswerOf<Access['shares']>, void>({
      query: () => call<Access['shares']>('get', '/shares'),
      providesTags: ['Share', 'Person', { type: 'Asset', id: 'names' }],
    }),
    shareEffect: build.query<AnswerOf<Access['shareEffect']>, Input<Access['shareEffect']>['body']>({
      query: (body) => call<Access['shareEffect']>('post', '/shares/effect', { body }),
      providesTags: ['Share', 'Policy', 'Finding'],
    }),
    offerShare: build.mutation<AnswerOf<Access['offer']>, Input<Access['offer']>['body']>({
      query: (body) => call<Access['offer']>('post', '/shares', { body }),
      invalidatesTags: [...CHANGED],
    }),
    changeShare: build.mutation<
      AnswerOf<Access['changeShare']>,
      { id: string; version: number; body: Input<Access['changeShare']>['body'] }
    >({
      query: ({ id, ...input }) => call<Access['changeShare']>('put', '/shares/:id', { params: { id }, ...input }),
      invalidatesTags: [...CHANGED],
    }),
    endShare: build.mutation<AnswerOf<Access['endShare']>, { id: string; because: string }>({
      query: ({ id, because }) =>
        call<Access['endShare']>('post', '/shares/:id/end', { params: { id }, body: { because } }),
      invalidatesTags: [...CHANGED],
    }),
    partners: build.query<AnswerOf<Partners['list']>, void>({
      query: () => call<Partners['list']>('get', '/partners'),
      providesTags: ['Share', 'Person'],
    }),
    addPartner: build.mutation<AnswerOf<Partners['add']>, Input<Partners['add']>['body']>({
      query: (body) => call<Partners['add']>('post', '/partners', { body }),
      invalidatesTags: ['Person', 'Share'],
    }),
    addPartnerPerson: build.mutation<AnswerOf<Partners['addPerson']>, Input<Partners['addPerson']>['body']>({
      query: (body) => call<Partners['addPerson']>('post', '/partner-people', { body }),
      invalidatesTags: ['Person', 'Share'],
    }),
    endPartnerPerson: build.mutation<void, string>({
      query: (id) => call<Partners['endPerson']>('delete', '/partner-people/:id', { params: { id } }),
      invalidatesTags: ['Person', 'Share'],
    }),
    shared: build.query<AnswerOf<Access['shared']>, void>({
      query: () => call<Access['shared']>('get', '/shared'),
      providesTags: ['Share', 'Person'],
    }),
    sharedTables: build.query<AnswerOf<Access['sharedTables']>, string>({
      query: (id) => call<Access['sharedTables']>('get', '/shared/:id', { params: { id } }),
      providesTags: ['Share'],
    }),
    answerShare: build.mutation<
      AnswerOf<Access['answerShare']>,
      { id: string; version: number; body: Input<Access['answerShare']>['body'] }
    >({
      query: ({ id, ...input }) =>
        call<Access['answerShare']>('post', '/shared/:id/answer', { params: { id }, ...input }),
      invalidatesTags: ['Share'],
    }),
    queryShared: build.mutation<Lines, { id: string } & Input<Access['queryShared']>['body']>({
      query: ({ id, ...body }) => ({
        ...call<Access['queryShared']>('post', '/shared/:id/query', { params: { id }, body }),
        responseHandler: async (response: Response) =>
          response.ok ? readLines(await response.text()) : response.json(),
        // What failed after it had begun stands in its last line.
        validateStatus: (response: Response, answer: Lines | { problem: unknown }) =>
          response.ok && !('problem' in answer),
      }),
      transformErrorResponse: ({ data, status }) =>
        data && typeof data === 'object' && 'problem' in data ? { status, data: data.problem } : { status, data },
    }),
  }),
});
export const {
  useSharesQuery,
  useShareEffectQuery,
  useOfferShareMutation,
  useChangeShareMutation,
  useEndShareMutation,
  usePartnersQuery,
  useAddPartnerMutation,
  useAddPartnerPersonMutation,
  useEndPartnerPersonMutation,
  useSharedQuery,
  useSharedTablesQuery,
  useAnswerShareMutation,
  useQuerySharedMutation,
} = sharesApi;
