import { LANGUAGE_TAG } from '@idrel/core/glossary';
import { endpoint, flag, id, idParam, Joi, list, nullable, number, type Of, role, shape, text } from '../http/index.ts';

/** A tag of BCP 47, in small letters; an empty one where none is told. */
export const language = Joi.string()
  .trim()
  .lowercase()
  .max(35)
  .pattern(LANGUAGE_TAG, 'a language tag as in en or pt-BR');

export const SchemeBody = shape({
  name: Joi.string().trim().min(1).max(200),
  language,
  description: Joi.string().trim().allow('').max(10_000),
  ownerId: nullable(id).description('Who agrees to its terms; with nobody, stewards do.'),
});
export type SchemeBody = Of<typeof SchemeBody>;
export const SchemeAnswer = shape({
  id: text,
  uri: text,
  name: text,
  language: text,
  description: text,
  ownerId: nullable(text),
  owner: nullable(text),
  terms: number,
  proposed: number.description('How many of its terms wait to be agreed to.'),
  mayApprove: flag.description('Whether you may agree to its terms, and change what is said of the scheme.'),
  version: number,
});
export type SchemeAnswer = Of<typeof SchemeAnswer>;

export const schemeEndpoints = {
  list: endpoint({
    id: 'schemes',
    method: 'get',
    path: '/schemes',
    area: 'glossary',
    summary: 'Schemes of terms',
    may: 'signed in',
    answer: list(SchemeAnswer),
    answers: 'Schemes with how many terms each has.',
  }),
  create: endpoint({
    id: 'createScheme',
    method: 'post',
    path: '/schemes',
    area: 'glossary',
    summary: 'Make a scheme of terms',
    may: role('steward', 'any domain'),
    body: SchemeBody,
    problems: ['name-taken'],
    answer: SchemeAnswer,
    answers: 'The scheme.',
  }),
  change: endpoint({
    id: 'changeScheme',
    method: 'put',
    path: '/schemes/:id',
    area: 'glossary',
    summary: 'Change a scheme',
    may: role('editor', 'any domain', 'and to agree to its terms'),
    params: idParam,
    body: SchemeBody,
    versioned: true,
    problems: ['name-taken'],
    answer: SchemeAnswer,
    answers: 'The scheme.',
  }),
  remove: endpoint({
    id: 'removeScheme',
    method: 'delete',
    path: '/schemes/:id',
    area: 'glossary',
    summary: 'Remove a scheme that has no terms',
    may: role('editor', 'any domain', 'and to agree to its terms'),
    params: idParam,
    problems: ['still-used'],
    answers: 'Nothing.',
  }),
};
