import { endpoint, id } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

export const ROLES = [
  'reader',
  'editor',
  'steward',
  'source administrator',
  'policy administrator',
  'administrator',
] as const;
export type Role = (typeof ROLES)[number];

export interface PersonBrief {
  readonly id: string;
  readonly name: string;
  readonly job: string;
}
export interface Grant {
  readonly role: Role;
  readonly domain: string | null;
}
export interface SessionAnswer {
  readonly person: PersonBrief | null;
  readonly csrf: string | null;
  readonly grants: readonly Grant[];
  readonly demo: boolean;
  /** In demo mode: people to choose from. */
  readonly demoPeople: readonly PersonBrief[];
}
export interface GroupAnswer {
  readonly id: string;
  readonly name: string;
  readonly members: readonly string[];
}
export interface DomainAnswer {
  readonly id: string;
  readonly parentId: string | null;
  readonly name: string;
}

export const peopleEndpoints = {
  session: endpoint({
    id: 'session',
    method: 'get',
    path: '/session',
    area: 'people',
    summary: 'Who is signed in',
    open: true,
    answers: 'The person, their roles and the token that changes must carry; in demo mode the people to choose from.',
  }),
  signIn: endpoint({
    id: 'signIn',
    method: 'post',
    path: '/session',
    area: 'people',
    summary: 'Sign in with e-mail and password, or as a demo person',
    open: true,
    body: Joi.object({ email: Joi.string().email({ tlds: false }), password: Joi.string().max(200), demoPersonId: id })
      .xor('email', 'demoPersonId')
      .and('email', 'password'),
    answers: 'The session, as a cookie and in the answer.',
  }),
  signOut: endpoint({
    id: 'signOut',
    method: 'delete',
    path: '/session',
    area: 'people',
    summary: 'Sign out',
    answers: 'Nothing.',
  }),
  people: endpoint({
    id: 'people',
    method: 'get',
    path: '/people',
    area: 'people',
    summary: 'All people',
    answers: 'People with name and job.',
  }),
  groups: endpoint({
    id: 'groups',
    method: 'get',
    path: '/groups',
    area: 'people',
    summary: 'All groups',
    answers: 'Groups with the ids of their members.',
  }),
  domains: endpoint({
    id: 'domains',
    method: 'get',
    path: '/domains',
    area: 'people',
    summary: 'The tree of domains',
    answers: 'Domains, each with its parent.',
  }),
};
