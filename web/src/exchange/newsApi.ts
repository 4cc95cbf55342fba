import type { newsEndpoints, Subscription, SubscriptionBody, SubscriptionHow } from '@idrel/contract/exchange';
import type { AnswerOf } from '@idrel/contract/http';
import { call } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type NewsOf = typeof newsEndpoints;
type Listed = AnswerOf<NewsOf['list']>;

export const {
  useNewsQuery,
  useUnreadQuery,
  useReadNewsMutation,
  useSubscriptionsQuery,
  useSubscribeMutation,
  useChangeSubscriptionMutation,
  useEndSubscriptionMutation,
} = api.injectEndpoints({
  endpoints: (build) => ({
    news: build.query<Listed, number | null>({
      query: (before) => call<NewsOf['list']>('get', '/news', { query: before === null ? {} : { before } }),
      providesTags: ['News'],
    }),
    unread: build.query<number, void>({
      query: () => call<NewsOf['list']>('get', '/news', { query: { limit: 1 } }),
      transformResponse: ({ unread }: Listed) => unread,
      providesTags: ['News'],
    }),
    readNews: build.mutation<void, number>({
      query: (upTo) => call<NewsOf['read']>('post', '/news/read', { body: { upTo } }),
      invalidatesTags: ['News'],
    }),
    subscriptions: build.query<AnswerOf<NewsOf['subscriptions']>, void>({
      query: () => call<NewsOf['subscriptions']>('get', '/subscriptions'),
      providesTags: ['Subscription'],
    }),
    subscribe: build.mutation<Subscription, SubscriptionBody>({
      query: (body) => call<NewsOf['subscribe']>('post', '/subscriptions', { body }),
      invalidatesTags: ['Subscription'],
    }),
    changeSubscription: build.mutation<Subscription, { id: string; version: number; body: SubscriptionHow }>({
      query: ({ id, version, body }) =>
        call<NewsOf['change']>('put', '/subscriptions/:id', { params: { id }, version, body }),
      invalidatesTags: ['Subscription', 'News'],
    }),
    endSubscription: build.mutation<void, string>({
      query: (id) => call<NewsOf['end']>('delete', '/subscriptions/:id', { params: { id } }),
      invalidatesTags: ['Subscription'],
    }),
  }),
});
