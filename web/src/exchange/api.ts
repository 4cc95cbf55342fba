import type { Webhook, WebhookBody, webhookEndpoints } from '@idrel/contract/exchange';
import type { AnswerOf } from '@idrel/contract/http';
import { call } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Hooks = typeof webhookEndpoints;

export const {
  useWebhooksQuery,
  useMakeWebhookMutation,
  useChangeWebhookMutation,
  useRemoveWebhookMutation,
  useRenewWebhookSecretMutation,
  useTryWebhookMutation,
  useWebhookMessagesQuery,
  useSendWebhookAgainMutation,
  useSendWebhookFromMutation,
} = api.injectEndpoints({
  endpoints: (build) => ({
    webhooks: build.query<readonly Webhook[], void>({
      query: () => call<Hooks['list']>('get', '/webhooks'),
      providesTags: ['Webhook'],
    }),
    makeWebhook: build.mutation<AnswerOf<Hooks['make']>, WebhookBody>({
      query: (body) => call<Hooks['make']>('post', '/webhooks', { body }),
      invalidatesTags: ['Webhook'],
    }),
    changeWebhook: build.mutation<Webhook, { id: string; version: number; body: WebhookBody }>({
      query: ({ id, version, body }) =>
        call<Hooks['change']>('put', '/webhooks/:id', { params: { id }, version, body }),
      invalidatesTags: ['Webhook'],
    }),
    removeWebhook: build.mutation<void, string>({
      query: (id) => call<Hooks['remove']>('delete', '/webhooks/:id', { params: { id } }),
      invalidatesTags: ['Webhook'],
    }),
    renewWebhookSecret: build.mutation<AnswerOf<Hooks['secret']>, { id: string; hours: number }>({
      query: ({ id, hours }) =>
        call<Hooks['secret']>('post', '/webhooks/:id/secret', { params: { id }, body: { hours } }),
      invalidatesTags: ['Webhook'],
    }),
    tryWebhook: build.mutation<AnswerOf<Hooks['try']>, string>({
      query: (id) => call<Hooks['try']>('post', '/webhooks/:id/try', { params: { id } }),
    }),
    webhookMessages: build.query<AnswerOf<Hooks['messages']>, { id: string; dead: boolean }>({
      query: ({ id, dead }) =>
        call<Hooks['messages']>('get', '/webhooks/:id/messages', { params: { id }, query: { dead } }),
      providesTags: ['Webhook'],
    }),
    sendWebhookAgain: build.mutation<AnswerOf<Hooks['again']>, { id: string; messages: readonly string[] | null }>({
      query: ({ id, messages }) =>
        call<Hooks['again']>('post', '/webhooks/:id/again', { params: { id }, body: { messages } }),
      invalidatesTags: ['Webhook'],
    }),
    sendWebhookFrom: build.mutation<Webhook, { id: string; after: number }>({
      query: ({ id, after }) => call<Hooks['from']>('post', '/webhooks/:id/from', { params: { id }, body: { after } }),
      invalidatesTags: ['Webhook'],
    }),
  }),
});
