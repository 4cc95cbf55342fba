import {
  endpoint,
  id,
  idParam,
  Joi,
  list,
  needed,
  nullable,
  number,
  type Of,
  oneOf,
  optional,
  role,
  shape,
  text,
} from '../http/index.ts';

export const TERM_STATUSES = ['draft', 'agreed', 'retired'] as const;
export const TermAnswer = shape({
  id: text,
  name: text,
  otherNames: list(text),
  definition: text,
  broaderId: nullable(text),
  status: oneOf(TERM_STATUSES),
  ownerId: nullable(text),
  owner: nullable(text),
  assets: number,
  version: number,
});
export type TermAnswer = Of<typeof TermAnswer>;

const fields = {
  name: optional(Joi.string().trim().min(1).max(200)),
  otherNames: optional(list(Joi.string().trim().min(1).max(200)).max(30)),
  definition: optional(Joi.string().trim().allow('').max(10_000)),
  broaderId: optional(nullable(id)),
  status: optional(oneOf(TERM_STATUSES)),
  ownerId: optional(nullable(id)),
};

export const glossaryEndpoints = {
  list: endpoint({
    id: 'terms',
    method: 'get',
    path: '/terms',
    area: 'glossary',
    summary: 'All terms',
    may: 'signed in',
    answer: list(TermAnswer),
    answers: 'Terms with how many assets carry each.',
  }),
  create: endpoint({
    id: 'createTerm',
    method: 'post',
    path: '/terms',
    area: 'glossary',
    summary: 'Create a term',
    may: role('editor', 'any domain'),
    body: shape({ ...fields, name: needed(fields.name) }),
    problems: ['name-taken'],
    answer: TermAnswer,
    answers: 'The term.',
  }),
  change: endpoint({
    id: 'changeTerm',
    method: 'patch',
    path: '/terms/:id',
    area: 'glossary',
    summary: 'Change a term',
    may: role('editor', 'any domain'),
    params: idParam,
    body: shape(fields).min(1),
    versioned: true,
    problems: ['name-taken'],
    answer: TermAnswer,
    answers: 'The term.',
  }),
};
