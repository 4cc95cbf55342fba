import type { Problem, ProblemCode } from '@idrel/contract/http';
import type { SessionAnswer } from '@idrel/contract/people';
import { createApi, fetchBaseQuery } from '@reduxjs/toolkit/query/react';

const TOKEN_KEY = 'idrel-token';
/** The token that changes carry; it belongs to the session and is of no use without its cookie. */
export const keepToken = (token: string | null): void =>
  token ? sessionStorage.setItem(TOKEN_KEY, token) : sessionStorage.removeItem(TOKEN_KEY);
export const token = (): string => sessionStorage.getItem(TOKEN_KEY) ?? '';

/** Where standing, owners, terms or levels of assets are shown, beside lists of them: pictures of lineage, what waits on the worklist. */
export const MARKS = { type: 'Asset', id: 'marks' } as const;

/** As whom the catalog is looked at in this session; null: as oneself. */
let lookingAs: SessionAnswer['lookingAs'] = null;

const asked = fetchBaseQuery({
  baseUrl: '/api/v1',
  prepareHeaders: (headers) => {
    headers.set('x-idrel-token', token());
    if (lookingAs) headers.set('x-idrel-as', lookingAs.id);
    return headers;
  },
});
/** Asks the server; while the catalog is looked at as somebody else, nothing is changed: it would be changed as oneself. */
const baseQuery: typeof asked = (args, context, more) => {
  const { url, method = 'GET' } = typeof args === 'string' ? { url: args } : args;
  if (!lookingAs || method.toUpperCase() === 'GET' || url.startsWith('/session')) return asked(args, context, more);
  const data: Problem = {
    type: '',
    title: 'Not now',
    status: 403,
    code: 'forbidden',
    detail: `You look at the catalog as ${lookingAs.name}: nothing is changed meanwhile.`,
    mend: 'Go back to yourself first.',
  };
  return { error: { status: 403, data } };
};

/** The API; areas add their operations where they are used, so that a view loads only its own. */
export const api = createApi({
  reducerPath: 'api',
  baseQuery,
  tagTypes: [
    'Session',
    'Source',
    'Run',
    'Asset',
    'Finding',
    'Term',
    'Policy',
    'NativeRight',
    'Request',
    'Review',
    'Share',
    'Credential',
    'Agent',
    'Routine',
    'DetectorSet',
    'Level',
    'Tag',
    'Many',
    'Search',
    'Guide',
    'Discussion',
    'Link',
    'Domain',
    'Person',
    'Suggestion',
    'View',
    'Target',
    'Price',
    'Report',
    'Webhook',
    'News',
    'Subscription',
    'Ticket',
  ],
  keepUnusedDataFor: 120,
  endpoints: (build) => ({
    session: build.query<SessionAnswer, void>({
      query: () => '/session',
      providesTags: ['Session'],
      transformResponse: (answer: SessionAnswer) => {
        keepToken(answer.csrf);
        lookingAs = answer.lookingAs ?? null;
        return answer;
      },
    }),
    lookAs: build.mutation<SessionAnswer, string | null>({
      query: (personId) => ({ url: '/session/looking', method: 'PUT', body: { personId } }),
    }),
    signIn: build.mutation<SessionAnswer, { demoPersonId: string } | { email: string; password: string }>({
      query: (body) => ({ url: '/session', method: 'POST', body }),
      transformResponse: (answer: SessionAnswer) => {
        keepToken(answer.csrf);
        return answer;
      },
      invalidatesTags: ['Session'],
    }),
    signOut: build.mutation<void, void>({ query: () => ({ url: '/session', method: 'DELETE' }) }),
  }),
});
export const { useSessionQuery, useSignInMutation, useSignOutMutation, useLookAsMutation } = api;

/** A problem, also that there was no answer at all. */
export type AnyProblem = Omit<Problem, 'code'> & { readonly code: ProblemCode | 'not-reached' };

/** The problem behind a failed call, in words for people also when the server could not be reached. */
export function problemOf(error: unknown): AnyProblem {
  const { data, status } = (error ?? {}) as { data?: Problem; status?: number | string };
  if (data && typeof data === 'object' && 'detail' in data) return data;
  return {
    type: '',
    title: 'Not reached',
    status: Number(status) || 0,
    code: 'not-reached',
    detail: 'The server did not answer.',
    mend: 'What is shown may be old. Try again in a moment.',
  };
}
