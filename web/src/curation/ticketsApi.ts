import type { Ticket, TicketBody, ticketEndpoints } from '@idrel/contract/curation';
import type { AnswerOf } from '@idrel/contract/http';
import { call } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Tickets = typeof ticketEndpoints;

export const { useTicketsQuery, useOpenTicketMutation, useOpenTicketAgainMutation } = api.injectEndpoints({
  endpoints: (build) => ({
    tickets: build.query<AnswerOf<Tickets['list']>, string>({
      query: (id) => call<Tickets['list']>('get', '/assets/:id/tickets', { params: { id } }),
      providesTags: ['Ticket'],
    }),
    openTicket: build.mutation<Ticket, { assetId: string; body: TicketBody }>({
      query: ({ assetId, body }) =>
        call<Tickets['open']>('post', '/assets/:id/tickets', { params: { id: assetId }, body }),
      invalidatesTags: ['Ticket'],
    }),
    openTicketAgain: build.mutation<Ticket, string>({
      query: (id) => call<Tickets['again']>('post', '/tickets/:id/again', { params: { id } }),
      invalidatesTags: ['Ticket'],
    }),
  }),
});
