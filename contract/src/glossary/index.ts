import { endpoint, id, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

export const TERM_STATUSES = ['draft', 'agreed', 'retired'] as const;
export interface TermAnswer {
  readonly id: string;
  readonly name: string;
  readonly otherNames: readonly string[];
  readonly definition: string;
  readonly broaderId: string | null;
  readonly status: (typeof TERM_STATUSES)[number];
  readonly ownerId: string | null;
  readonly owner: string | null;
  readonly assets: number;
  readonly version: number;
}

const fields = {
  name: Joi.string().trim().min(1).max(200),
  otherNames: Joi.array().items(Joi.string().trim().min(1).max(200)).max(30),
  definition: Joi.string().trim().allow('').max(10_000),
  broaderId: id.allow(null),
  status: Joi.string().valid(...TERM_STATUSES),
  ownerId: id.allow(null),
};

export const glossaryEndpoints = {
  list: endpoint({
    id: 'terms',
    method: 'get',
    path: '/terms',
    area: 'glossary',
    summary: 'All terms',
    answers: 'Terms with how many assets carry each.',
  }),
  create: endpoint({
    id: 'createTerm',
    method: 'post',
    path: '/terms',
    area: 'glossary',
    summary: 'Create a term',
    rights: 'editor in any domain',
    body: Joi.object({ ...fields, name: fields.name.required() }),
    answers: 'The term.',
  }),
  change: endpoint({
    id: 'changeTerm',
    method: 'patch',
    path: '/terms/:id',
    area: 'glossary',
    summary: 'Change a term',
    rights: 'editor in any domain',
    params: idParam,
    body: Joi.object(fields).min(1),
    answers: 'The term. Send If-Match with its version.',
  }),
};
