import {
  endpoint,
  flag,
  idParam,
  Joi,
  list,
  moment,
  nullable,
  type Of,
  oneOf,
  shape,
  text,
  withDefault,
} from '../http/index.ts';

export const TICKET_STATES = ['being opened', 'open', 'closed', 'not opened'] as const;
/** A ticket of the tracker that is about an asset. */
export const Ticket = shape({
  id: text,
  title: text,
  state: oneOf(TICKET_STATES),
  key: nullable(text).description('What the tracker calls it; null until it has it.'),
  url: nullable(text).description('Where it is shown.'),
  by: nullable(text).description('Who opened it.'),
  routine: nullable(text).description('The routine that opened it for them.'),
  openedAt: moment,
  closedAt: nullable(moment),
  problem: nullable(text).description('Why the tracker did not take it.'),
});
export type Ticket = Of<typeof Ticket>;

export const TicketBody = shape({
  title: Joi.string().trim().min(1).max(200),
  text: withDefault(Joi.string().trim().allow('').max(8000), ''),
});
export type TicketBody = Of<typeof TicketBody>;

/** What the tracker tells of one of its tickets. */
export const TicketTold = shape({
  key: Joi.string().trim().min(1).max(100),
  state: oneOf(['open', 'closed']),
  title: withDefault(nullable(Joi.string().trim().min(1).max(200)), null),
});
export type TicketTold = Of<typeof TicketTold>;

export const ticketEndpoints = {
  list: endpoint({
    id: 'tickets',
    method: 'get',
    path: '/assets/:id/tickets',
    area: 'curation',
    summary: 'Tickets of an asset',
    may: 'signed in',
    params: idParam,
    answer: shape({
      items: list(Ticket),
      tracker: flag.description('Whether there is a tracker in which one can be opened.'),
    }),
    answers: 'Those that are open first, the newest before the others.',
  }),
  open: endpoint({
    id: 'openTicket',
    method: 'post',
    path: '/assets/:id/tickets',
    area: 'curation',
    summary: 'Open a ticket about an asset',
    may: { words: 'whoever may see the asset' },
    params: idParam,
    body: TicketBody,
    problems: ['no-tracker'],
    answer: Ticket,
    answers: 'The ticket, which the tracker is given at once, and again until it takes it.',
  }),
  again: endpoint({
    id: 'openTicketAgain',
    method: 'post',
    path: '/tickets/:id/again',
    area: 'curation',
    summary: 'Give the tracker a ticket again that it did not take',
    may: { words: 'whoever may see the asset' },
    params: idParam,
    problems: ['no-tracker', 'begun-already'],
    answer: Ticket,
    answers: 'The ticket.',
  }),
  told: endpoint({
    id: 'ticketTold',
    method: 'post',
    path: '/tracker/tickets',
    area: 'curation',
    summary: 'Tell how a ticket stands',
    may: 'a tracker',
    bodyBytes: 65_536,
    body: TicketTold,
    problems: ['not-found'],
    answers: 'Nothing.',
  }),
};
