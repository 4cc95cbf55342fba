import type { AnswerOf, SentBody } from '@idrel/contract/http';
import { call } from '@idrel/contract/http/address';
import type {
  apiKeyEndpoints,
  clientKeyEndpoints,
  DomainBody,
  directoryEndpoints,
  domainEndpoints,
  GroupBody,
  manageEndpoints,
  openSessionEndpoints,
  PersonBody,
  peopleEndpoints,
  signInEndpoints,
} from '@idrel/contract/people';
import { api } from '../app/api.ts';

type People = typeof peopleEndpoints;
type Manage = typeof manageEndpoints;
type Sessions = typeof openSessionEndpoints;
type Keys = typeof clientKeyEndpoints;
type ApiKeys = typeof apiKeyEndpoints;
type SignIn = typeof signInEndpoints;
type Directory = typeof directoryEndpoints;
type Domains = typeof domainEndpoints;
type Import = SentBody<Directory['imported']>;

const peopleApi = api.injectEndpoints({
  endpoints: (build) => ({
    people: build.query<AnswerOf<People['people']>, void>({
      query: () => call<People['people']>('get', '/people'),
      providesTags: ['Person'],
    }),
    groups: build.query<AnswerOf<People['groups']>, void>({
      query: () => call<People['groups']>('get', '/groups'),
      providesTags: ['Person'],
    }),
    everybody: build.query<AnswerOf<Manage['all']>, void>({
      query: () => call<Manage['all']>('get', '/everybody'),
      providesTags: ['Person'],
    }),
    attributesOfPeople: build.query<AnswerOf<Manage['attributes']>, void>({
      query: () => call<Manage['attributes']>('get', '/attributes-of-people'),
      providesTags: ['Person'],
    }),
    person: build.query<AnswerOf<Manage['person']>, string>({
      query: (id) => call<Manage['person']>('get', '/people/:id', { params: { id } }),
      providesTags: ['Person'],
    }),
    savePerson: build.mutation<
      AnswerOf<Manage['changePerson']>,
      { id: string | null; version: number; body: PersonBody }
    >({
      query: ({ id, version, body }) =>
        id
          ? call<Manage['changePerson']>('put', '/people/:id', { params: { id }, version, body })
          : call<Manage['addPerson']>('post', '/people', { body }),
      // Rights may be other ones now, of whoever is signed in as well.
      invalidatesTags: ['Person', 'Session', 'Policy'],
    }),
    sessions: build.query<AnswerOf<Sessions['list']>, void>({
      query: () => call<Sessions['list']>('get', '/sessions'),
      providesTags: ['Session'],
    }),
    endSession: build.mutation<void, string>({
      query: (id) => call<Sessions['end']>('delete', '/sessions/:id', { params: { id } }),
      invalidatesTags: ['Session'],
    }),
    endOtherSessions: build.mutation<AnswerOf<Sessions['endOthers']>, void>({
      query: () => call<Sessions['endOthers']>('delete', '/sessions'),
      invalidatesTags: ['Session'],
    }),
    apiKeys: build.query<AnswerOf<ApiKeys['list']>, boolean>({
      query: (all) => call<ApiKeys['list']>('get', '/api-keys', { query: { all } }),
      providesTags: ['Session'],
    }),
    makeApiKey: build.mutation<AnswerOf<ApiKeys['make']>, SentBody<ApiKeys['make']>>({
      query: (body) => call<ApiKeys['make']>('post', '/api-keys', { body }),
      invalidatesTags: ['Session'],
    }),
    rotateApiKey: build.mutation<AnswerOf<ApiKeys['rotate']>, { id: string; hours: number }>({
      query: ({ id, hours }) =>
        call<ApiKeys['rotate']>('post', '/api-keys/:id/rotate', { params: { id }, body: { hours } }),
      invalidatesTags: ['Session'],
    }),
    endApiKey: build.mutation<void, string>({
      query: (id) => call<ApiKeys['end']>('delete', '/api-keys/:id', { params: { id } }),
      invalidatesTags: ['Session'],
    }),
    clientKeys: build.query<AnswerOf<Keys['list']>, void>({
      query: () => call<Keys['list']>('get', '/client-keys'),
      providesTags: ['Session'],
    }),
    makeClientKey: build.mutation<AnswerOf<Keys['make']>, SentBody<Keys['make']>>({
      query: (body) => call<Keys['make']>('post', '/client-keys', { body }),
      invalidatesTags: ['Session'],
    }),
    endClientKey: build.mutation<void, string>({
      query: (id) => call<Keys['end']>('delete', '/client-keys/:id', { params: { id } }),
      invalidatesTags: ['Session'],
    }),
    takePeopleOut: build.mutation<AnswerOf<Directory['exported']>, 'csv' | 'xlsx'>({
      query: (format) => call<Directory['exported']>('get', '/people-file', { query: { format } }),
    }),
    previewPeople: build.mutation<AnswerOf<Directory['imported']>, Import>({
      query: (body) => call<Directory['imported']>('post', '/people-file', { query: { preview: true }, body }),
    }),
    importPeople: build.mutation<AnswerOf<Directory['imported']>, Import>({
      query: (body) => call<Directory['imported']>('post', '/people-file', { query: {}, body }),
      invalidatesTags: ['Person', 'Session', 'Policy'],
    }),
    askLink: build.mutation<void, string>({
      query: (email) => call<SignIn['askLink']>('post', '/password-links', { body: { email } }),
    }),
    // A token is read and used by what is posted: no address holds it, and no store.
    readLink: build.mutation<AnswerOf<SignIn['readLink']>, string>({
      query: (token) => call<SignIn['readLink']>('post', '/password-links/read', { body: { token } }),
    }),
    useLink: build.mutation<AnswerOf<SignIn['useLink']>, { token: string; password: string }>({
      query: (body) => call<SignIn['useLink']>('post', '/password-links/use', { body }),
      invalidatesTags: ['Session'],
    }),
    changePassword: build.mutation<AnswerOf<SignIn['changePassword']>, { now: string; password: string }>({
      query: (body) => call<SignIn['changePassword']>('put', '/password', { body }),
      invalidatesTags: ['Session'],
    }),
    invite: build.mutation<void, string>({
      query: (id) => call<SignIn['invite']>('post', '/people/:id/password-link', { params: { id } }),
    }),
    holdings: build.query<AnswerOf<Manage['holds']>, string>({
      query: (id) => call<Manage['holds']>('get', '/people/:id/holdings', { params: { id } }),
      providesTags: ['Person', 'Asset', 'Term', 'Policy', 'Routine', 'Search'],
    }),
    leave: build.mutation<AnswerOf<Manage['leave']>, { id: string; to: string | null; seen: number }>({
      query: ({ id, ...body }) => call<Manage['leave']>('post', '/people/:id/leave', { params: { id }, body }),
      invalidatesTags: ['Person', 'Asset', 'Term', 'Policy', 'Routine', 'Search'],
    }),
    comeBack: build.mutation<AnswerOf<Manage['comeBack']>, string>({
      query: (id) => call<Manage['comeBack']>('post', '/people/:id/come-back', { params: { id } }),
      invalidatesTags: ['Person'],
    }),
    saveGroup: build.mutation<AnswerOf<Manage['changeGroup']>, { id: string | null; version: number; body: GroupBody }>(
      {
        query: ({ id, version, body }) =>
          id
            ? call<Manage['changeGroup']>('put', '/groups/:id', { params: { id }, version, body })
            : call<Manage['addGroup']>('post', '/groups', { body }),
        invalidatesTags: ['Person', 'Policy'],
      },
    ),
    removeGroup: build.mutation<void, string>({
      query: (id) => call<Manage['removeGroup']>('delete', '/groups/:id', { params: { id } }),
      invalidatesTags: ['Person', 'Policy'],
    }),
    domains: build.query<AnswerOf<Domains['all']>, void>({
      query: () => call<Domains['all']>('get', '/domains'),
      providesTags: ['Domain', 'Person'],
    }),
    saveDomain: build.mutation<AnswerOf<Domains['change']>, { id: string | null; version: number; body: DomainBody }>({
      query: ({ id, version, body }) =>
        id
          ? call<Domains['change']>('put', '/domains/:id', { params: { id }, version, body })
          : call<Domains['add']>('post', '/domains', { body }),
      // Names, owners and rights of whatever lies in it may be other ones.
      invalidatesTags: ['Domain', 'Asset', 'Source', 'Session'],
    }),
    removeDomain: build.mutation<void, string>({
      query: (id) => call<Domains['remove']>('delete', '/domains/:id', { params: { id } }),
      invalidatesTags: ['Domain'],
    }),
    domainArrival: build.query<AnswerOf<Domains['arrival']>, { id: string; from: string }>({
      query: ({ id, from }) =>
        call<Domains['arrival']>('get', '/domains/:id/arrival', { params: { id }, query: { from } }),
      providesTags: ['Domain', 'Person'],
    }),
    domainMoveEffect: build.query<AnswerOf<Domains['moveEffect']>, { id: string; to: string | null }>({
      query: ({ id, to }) =>
        call<Domains['moveEffect']>('get', '/domains/:id/move', { params: { id }, query: to ? { to } : {} }),
      providesTags: ['Domain', 'Person'],
    }),
    domainRights: build.query<AnswerOf<Domains['rights']>, string>({
      query: (id) => call<Domains['rights']>('get', '/domains/:id/rights', { params: { id } }),
      providesTags: ['Domain', 'Person'],
    }),
    personRights: build.query<AnswerOf<Domains['personRights']>, string>({
      query: (id) => call<Domains['personRights']>('get', '/people/:id/rights', { params: { id } }),
      providesTags: ['Domain', 'Person'],
    }),
  }),
});
export const {
  useAttributesOfPeopleQuery,
  usePeopleQuery,
  useGroupsQuery,
  useDomainsQuery,
  useDomainArrivalQuery,
  useSaveDomainMutation,
  useRemoveDomainMutation,
  useDomainMoveEffectQuery,
  useDomainRightsQuery,
  usePersonRightsQuery,
  useEverybodyQuery,
  usePersonQuery,
  useSavePersonMutation,
  useSessionsQuery,
  useApiKeysQuery,
  useMakeApiKeyMutation,
  useRotateApiKeyMutation,
  useEndApiKeyMutation,
  useClientKeysQuery,
  useEndClientKeyMutation,
  useEndSessionMutation,
  useMakeClientKeyMutation,
  useEndOtherSessionsMutation,
  useTakePeopleOutMutation,
  usePreviewPeopleMutation,
  useImportPeopleMutation,
  useAskLinkMutation,
  useReadLinkMutation,
  useUseLinkMutation,
  useChangePasswordMutation,
  useInviteMutation,
  useHoldingsQuery,
  useLeaveMutation,
  useComeBackMutation,
  useSaveGroupMutation,
  useRemoveGroupMutation,
} = peopleApi;
