import { endpoint, flag, id, Joi, list, nullable, type Of, optional, shape, text } from '../http/index.ts';
import { Grant, GroupAnswer, PersonBrief } from './brief.ts';

export * from './apiKeys.ts';
export * from './brief.ts';
export * from './clientKeys.ts';
export * from './directory.ts';
export * from './domains.ts';
export * from './manage.ts';
export * from './partners.ts';
export * from './sessions.ts';
export * from './signIn.ts';

export const SessionAnswer = shape({
  person: nullable(PersonBrief),
  partner: nullable(shape({ id: text, name: text, leads: flag })).description(
    'The partner organisation that they are of, and whether they speak for it.',
  ),
  csrf: nullable(text),
  lookingAs: nullable(PersonBrief).description('As whom they look at the catalog, where they do.'),
  grants: list(Grant),
  demo: flag,
  demoPeople: list(PersonBrief).description('In demo mode: people to choose from.'),
  ways: shape({
    password: flag.description('Whether one can sign in by e-mail and password.'),
    mail: flag.description('Whether a link to set a password can be sent.'),
    outside: nullable(text).description('The identity provider by which one can sign in, as it is called.'),
    mailbox: nullable(text).description('In demo mode: where mail is shown.'),
  }),
});
export type SessionAnswer = Of<typeof SessionAnswer>;
export const peopleEndpoints = {
  session: endpoint({
    id: 'session',
    method: 'get',
    path: '/session',
    area: 'people',
    summary: 'Who is signed in',
    may: 'anybody',
    answer: SessionAnswer,
    answers: 'The person, their roles and the token that changes must carry; in demo mode the people to choose from.',
  }),
  signIn: endpoint({
    id: 'signIn',
    method: 'post',
    path: '/session',
    area: 'people',
    summary: 'Sign in with e-mail and password, or as a demo person',
    may: 'anybody',
    body: shape({
      email: optional(Joi.string().email({ tlds: false })),
      password: optional(Joi.string().max(200)),
      demoPersonId: optional(id),
    })
      .xor('email', 'demoPersonId')
      .and('email', 'password'),
    problems: ['wrong-sign-in', 'too-many-tries'],
    answer: SessionAnswer,
    answers: 'The session, as a cookie and in the answer.',
  }),
  signOut: endpoint({
    id: 'signOut',
    inSession: true,
    method: 'delete',
    path: '/session',
    area: 'people',
    summary: 'Sign out',
    may: 'signed in',
    partners: true,
    answers: 'Nothing.',
  }),
  lookAs: endpoint({
    id: 'lookAs',
    inSession: true,
    method: 'put',
    path: '/session/looking',
    area: 'people',
    summary: 'Look at the catalog as somebody else',
    may: { words: 'policy administrator in any domain; whoever they are, as themselves again' },
    body: shape({ personId: nullable(id).description('Null: as oneself again.') }),
    problems: ['not-found'],
    answer: SessionAnswer,
    answers:
      'The session. From then on operations that say so are answered as that person sees it, in the domains whose policies you administer, where the header X-Idrel-As names them; nothing can be changed that way. It is noted in the journal.',
  }),
  people: endpoint({
    id: 'people',
    method: 'get',
    path: '/people',
    area: 'people',
    summary: 'All people',
    may: 'signed in',
    answer: list(PersonBrief),
    answers: 'People with name and job.',
  }),
  groups: endpoint({
    id: 'groups',
    method: 'get',
    path: '/groups',
    area: 'people',
    summary: 'All groups',
    may: 'signed in',
    answer: list(GroupAnswer),
    answers: 'Groups with the ids of their members.',
  }),
};
