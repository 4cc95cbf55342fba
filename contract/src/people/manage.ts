import {
  endpoint,
  flag,
  id,
  idParam,
  Joi,
  list,
  moment,
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
import { GroupAnswer, ROLES } from './brief.ts';

const administrator = { words: 'administrator everywhere' } as const;

/** What is known of people that policies can ask for: `port`, `country`, `organisation`. */
export const attributeKey = Joi.string()
  .trim()
  .lowercase()
  .pattern(/^[\p{L}][\p{L}\p{N} _-]*$/u, 'a name')
  .max(40);

export const PersonAnswer = shape({
  id: text,
  name: text,
  job: text,
  email: nullable(text).description('For administrators alone, and for yourself.'),
  leftAt: nullable(moment),
  partner: nullable(text).description('The partner organisation that they are of.'),
  groups: list(shape({ id: text, name: text })),
  grants: list(shape({ role: oneOf(ROLES), domainId: nullable(text), domain: nullable(text) })).description(
    'Roles, each in a domain and those below it; null: everywhere.',
  ),
  attributes: nullable(list(shape({ key: text, values: list(text) }))).description(
    'What is known of them that policies can ask for. For administrators alone, and for yourself.',
  ),
  signsIn: nullable(shape({ password: flag, outside: flag })).description(
    'For administrators alone, and for yourself: whether there is a password, and whether they came by the identity provider.',
  ),
  version: number,
});
export type PersonAnswer = Of<typeof PersonAnswer>;

export const AttributeOfPeople = shape({
  key: text,
  people: whole.description('How many have one.'),
  values: list(text).description('The first 50.'),
});
export type AttributeOfPeople = Of<typeof AttributeOfPeople>;

export const PersonBody = shape({
  name: Joi.string().trim().min(1).max(120),
  email: Joi.string().email({ tlds: false }).max(200),
  job: Joi.string().trim().allow('').max(120),
  groupIds: list(id).max(200).unique(),
  grants: list(shape({ role: oneOf(ROLES), domainId: nullable(id) }))
    .max(200)
    .unique(),
  attributes: optional(
    list(
      shape({
        key: attributeKey,
        values: list(Joi.string().trim().min(1).max(200)).min(1).max(200).unique(),
      }),
    )
      .max(20)
      .unique((a: { key: string }, b: { key: string }) => a.key === b.key),
  ).description('Left out: they stay as they are.'),
});
export type PersonBody = Of<typeof PersonBody>;

/** Things of one kind that somebody answers for or has kept. */
export const Holding = shape({
  what: text,
  count: whole,
  first: list(shape({ name: text, address: nullable(text) })).description('The first of them, at most 20.'),
  after: text.description('What becomes of them when the person leaves.'),
});
export type Holding = Of<typeof Holding>;

export const GroupBody = shape({
  name: Joi.string().trim().min(1).max(120),
  claim: nullable(Joi.string().trim().min(1).max(200)),
  memberIds: list(id).max(5000).unique(),
});
export type GroupBody = Of<typeof GroupBody>;

export const manageEndpoints = {
  person: endpoint({
    id: 'person',
    method: 'get',
    path: '/people/:id',
    area: 'people',
    summary: 'A person, with groups and roles',
    may: 'signed in',
    params: idParam,
    answer: PersonAnswer,
    answers: 'The person; also one who has left.',
  }),
  attributes: endpoint({
    id: 'attributesOfPeople',
    method: 'get',
    path: '/attributes-of-people',
    area: 'people',
    summary: 'What is known of people that policies can ask for',
    may: role('policy administrator', 'any domain'),
    answer: list(AttributeOfPeople),
    answers: 'Keys, with how many people have one and which values there are.',
  }),
  all: endpoint({
    id: 'everybody',
    method: 'get',
    path: '/everybody',
    area: 'people',
    summary: 'All people, also those who have left',
    may: 'signed in',
    answer: list(shape({ id: text, name: text, job: text, leftAt: nullable(moment) })),
    answers: 'People by name.',
  }),
  addPerson: endpoint({
    id: 'addPerson',
    method: 'post',
    path: '/people',
    area: 'people',
    summary: 'Add a person',
    may: administrator,
    body: PersonBody,
    problems: ['name-taken'],
    answer: PersonAnswer,
    answers: 'The person. They sign in by the identity provider, or by a password that they set by a link.',
  }),
  changePerson: endpoint({
    id: 'changePerson',
    method: 'put',
    path: '/people/:id',
    area: 'people',
    summary: 'Change a person, their groups and roles',
    may: administrator,
    params: idParam,
    body: PersonBody,
    versioned: true,
    problems: ['name-taken', 'last-administrator'],
    answer: PersonAnswer,
    answers: 'The person as they are now. Rights change with their next request.',
  }),
  holds: endpoint({
    id: 'holdings',
    method: 'get',
    path: '/people/:id/holdings',
    area: 'people',
    summary: 'All that a person answers for or has kept',
    may: administrator,
    params: idParam,
    answer: list(Holding),
    answers: 'What they hold, by kind; kinds of which they hold nothing are left out.',
  }),
  leave: endpoint({
    id: 'leave',
    method: 'post',
    path: '/people/:id/leave',
    area: 'people',
    summary: 'Let a person leave: what they hold goes to another, and they cannot sign in any more',
    may: administrator,
    params: idParam,
    body: shape({
      to: nullable(id).description('Who gets what they answer for; null: nobody does.'),
      seen: whole.description('How many things it was seen that they hold.'),
    }),
    problems: ['count-changed', 'last-administrator'],
    answer: PersonAnswer,
    answers: 'The person as they are now.',
  }),
  comeBack: endpoint({
    id: 'comeBack',
    method: 'post',
    path: '/people/:id/come-back',
    area: 'people',
    summary: 'Let a person who has left come back, without what they held then',
    may: administrator,
    params: idParam,
    answer: PersonAnswer,
    answers: 'The person. Groups and roles are given anew.',
  }),
  addGroup: endpoint({
    id: 'addGroup',
    method: 'post',
    path: '/groups',
    area: 'people',
    summary: 'Make a group',
    may: administrator,
    body: GroupBody,
    problems: ['name-taken'],
    answer: GroupAnswer,
    answers: 'The group.',
  }),
  changeGroup: endpoint({
    id: 'changeGroup',
    method: 'put',
    path: '/groups/:id',
    area: 'people',
    summary: 'Change the name of a group and who is in it',
    may: administrator,
    params: idParam,
    body: GroupBody,
    versioned: true,
    problems: ['name-taken'],
    answer: GroupAnswer,
    answers: 'The group as it is now. What its members may read changes with their next request.',
  }),
  removeGroup: endpoint({
    id: 'removeGroup',
    method: 'delete',
    path: '/groups/:id',
    area: 'people',
    summary: 'Remove a group',
    may: administrator,
    params: idParam,
    problems: ['still-used'],
    answers: 'Nothing. A group that a policy, a tag or a text names stays.',
  }),
};
