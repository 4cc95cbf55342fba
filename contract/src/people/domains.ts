import {
  endpoint,
  flag,
  id,
  idParam,
  Joi,
  list,
  nullable,
  number,
  type Of,
  oneOf,
  optional,
  role,
  shape,
  text,
  whole,
} from '../http/index.ts';
import { PersonBrief, ROLES } from './brief.ts';

const everywhere = { words: 'administrator everywhere' } as const;

export const DomainAnswer = shape({
  id: text,
  parentId: nullable(text),
  name: text,
  purpose: text,
  owner: nullable(PersonBrief).description('Who answers for it, and for what lies in it and has no owner of its own.'),
  shownOutside: flag.description(
    'Whether an address of an asset shows what it is called, how it stands, who answers for it and what it means, wherever it is pasted.',
  ),
  version: number,
});
export type DomainAnswer = Of<typeof DomainAnswer>;

export const DomainBody = shape({
  name: Joi.string().trim().min(1).max(120),
  purpose: Joi.string().trim().allow('').max(2000),
  ownerId: nullable(id),
  parentId: nullable(id),
  shownOutside: Joi.boolean(),
});
export type DomainBody = Of<typeof DomainBody>;

/** What moving something from one domain to another changes. */
export const MoveEffect = shape({
  people: list(
    shape({
      id: text,
      name: text,
      gains: list(oneOf(ROLES)),
      loses: list(oneOf(ROLES)),
      keepsIn: list(text).description('Domains that move along in which they were given a role by itself.'),
    }),
  ).description('Whose rights change: the first 200, by name.'),
  peopleCount: whole,
  dismissals: shape({
    begin: whole,
    end: whole,
  }).description(
    'Remembered dismissals of findings, made in domains above, that begin to hold there, or hold no more.',
  ),
});
export type MoveEffect = Of<typeof MoveEffect>;

/** Who may do what in a domain, and by what. */
export const DomainRight = shape({
  person: PersonBrief,
  role: oneOf(ROLES),
  from: nullable(text).description('The domain that the role was given in; null: everywhere.'),
});
export type DomainRight = Of<typeof DomainRight>;

export const domainEndpoints = {
  all: endpoint({
    id: 'domains',
    method: 'get',
    path: '/domains',
    area: 'people',
    summary: 'The tree of domains',
    may: 'signed in',
    answer: list(DomainAnswer),
    answers: 'Domains, each with its parent.',
  }),
  add: endpoint({
    id: 'addDomain',
    method: 'post',
    path: '/domains',
    area: 'people',
    summary: 'Make a domain',
    may: everywhere,
    body: DomainBody,
    problems: ['name-taken'],
    answer: DomainAnswer,
    answers: 'The domain.',
  }),
  change: endpoint({
    id: 'changeDomain',
    method: 'put',
    path: '/domains/:id',
    area: 'people',
    summary: 'Change a domain, or move it with all below it',
    may: role('administrator', 'its domain', 'everywhere, to move it'),
    params: idParam,
    body: DomainBody,
    versioned: true,
    problems: ['name-taken'],
    answer: DomainAnswer,
    answers: 'The domain as it is now. Rights in it, and in those below, change with the next request.',
  }),
  remove: endpoint({
    id: 'removeDomain',
    method: 'delete',
    path: '/domains/:id',
    area: 'people',
    summary: 'Remove a domain in which nothing lies',
    may: everywhere,
    params: idParam,
    problems: ['still-used'],
    answers: 'Nothing. A domain that holds something, or in which somebody has a role, stays.',
  }),
  moveEffect: endpoint({
    id: 'domainMoveEffect',
    method: 'get',
    path: '/domains/:id/move',
    area: 'people',
    summary: 'What moving a domain would change: whose rights, and what is dismissed',
    may: role('administrator', 'its domain'),
    params: idParam,
    query: shape({ to: optional(id).description('The domain it would lie in; none: at the top.') }),
    answer: MoveEffect,
    answers: 'What would change in it and in those below.',
  }),
  arrival: endpoint({
    id: 'domainArrival',
    method: 'get',
    path: '/domains/:id/arrival',
    area: 'people',
    summary: 'What moving assets into a domain would change for people',
    may: role('source administrator', 'its domain', 'and the one it comes from'),
    params: idParam,
    query: shape({ from: id.description('The domain they lie in.') }),
    answer: MoveEffect,
    answers: 'What would change for what lies in the one domain when it moves into the other.',
  }),
  rights: endpoint({
    id: 'domainRights',
    method: 'get',
    path: '/domains/:id/rights',
    area: 'people',
    summary: 'Who may do what in a domain, and by what',
    may: 'signed in',
    params: idParam,
    answer: shape({ rights: list(DomainRight), total: whole }),
    answers:
      'The first 200: roles given in the domain itself first, then those of domains above, then those that hold everywhere.',
  }),
  personRights: endpoint({
    id: 'personRights',
    method: 'get',
    path: '/people/:id/rights',
    area: 'people',
    summary: 'What a person may do where, and by what',
    may: 'signed in',
    params: idParam,
    answer: list(
      shape({
        domainId: text,
        domain: text,
        depth: whole,
        roles: list(shape({ role: oneOf(ROLES), from: nullable(text) })),
      }),
    ),
    answers:
      'The tree of domains from the top, each with the roles that the person has there; those that another one includes are left out.',
  }),
};
