import {
  endpoint,
  flag,
  id,
  idParam,
  Joi,
  list,
  moment,
  nullable,
  type Of,
  role,
  shape,
  text,
  whole,
  withDefault,
} from '../http/index.ts';

export const PartnerPerson = shape({
  id: text,
  name: text,
  email: text,
  leads: flag.description('Whether they accept what is offered, and say who else of theirs reads it.'),
  addedAt: moment,
  lastRead: nullable(moment).description('When they last read something that is shared.'),
});
export type PartnerPerson = Of<typeof PartnerPerson>;

export const PartnerAnswer = shape({
  id: text,
  name: text,
  note: text,
  groupId: text.description('All of its people, as policies that protect or deny name them.'),
  people: list(PartnerPerson),
  shares: whole.description('Offered and accepted ones.'),
});
export type PartnerAnswer = Of<typeof PartnerAnswer>;

const personName = Joi.string().trim().min(1).max(120);
const email = Joi.string().email({ tlds: false }).max(200);

export const PartnerBody = shape({
  name: Joi.string().trim().min(1).max(120),
  note: withDefault(Joi.string().trim().allow('').max(2000), ''),
  lead: shape({ name: personName, email }).description('Who speaks for it at first.'),
});
export type PartnerBody = Of<typeof PartnerBody>;

export const PartnerPersonBody = shape({
  partnerId: id,
  name: personName,
  email,
  leads: withDefault(Joi.boolean(), false),
});
export type PartnerPersonBody = Of<typeof PartnerPersonBody>;

const theirs = { words: 'policy administrator in any domain; who speaks for the partner' } as const;

export const partnerEndpoints = {
  list: endpoint({
    id: 'partners',
    method: 'get',
    path: '/partners',
    area: 'people',
    summary: 'Partner organisations',
    may: role('policy administrator', 'any domain'),
    answer: list(PartnerAnswer),
    answers: 'Organisations that something can be shared with, and their people.',
  }),
  add: endpoint({
    id: 'addPartner',
    method: 'post',
    path: '/partners',
    area: 'people',
    summary: 'Add a partner organisation',
    may: role('policy administrator', 'any domain'),
    body: PartnerBody,
    problems: ['name-taken'],
    answer: PartnerAnswer,
    answers:
      'The partner. Whoever speaks for it is sent a link to set a password, where mail can be sent; what is shared with it is offered to them.',
  }),
  addPerson: endpoint({
    id: 'addPartnerPerson',
    method: 'post',
    path: '/partner-people',
    area: 'people',
    summary: 'Add a person of a partner organisation',
    may: theirs,
    partners: true,
    body: PartnerPersonBody,
    problems: ['not-found', 'too-much-at-once'],
    answer: PartnerPerson,
    answers: 'The person: they read whatever the partner has accepted, and nothing else.',
  }),
  endPerson: endpoint({
    id: 'endPartnerPerson',
    method: 'delete',
    path: '/partner-people/:id',
    area: 'people',
    summary: 'End a person of a partner organisation',
    may: theirs,
    partners: true,
    params: idParam,
    answers: 'Nothing. Whatever reads for them is ended at once; their keys and sessions are gone.',
  }),
};
