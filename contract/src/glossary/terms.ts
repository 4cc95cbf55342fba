import {
  CONFLICT_KINDS,
  type ConflictKind,
  LABEL_KINDS,
  MATCH_KINDS,
  NOTE_KINDS,
  TERM_MOST,
  TERM_STATUSES,
} from '@idrel/core/glossary';
import {
  endpoint,
  flag,
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
  withDefault,
} from '../http/index.ts';
import { language } from './schemes.ts';

const label = shape({
  kind: oneOf(LABEL_KINDS),
  language: language.allow(''),
  text: Joi.string().trim().min(1).max(TERM_MOST.name),
});
const note = shape({
  kind: oneOf(NOTE_KINDS),
  language: language.allow(''),
  text: Joi.string().trim().min(1).max(TERM_MOST.text),
});
const match = shape({
  kind: oneOf(MATCH_KINDS),
  uri: Joi.string()
    .trim()
    .max(1000)
    .pattern(/^[a-z][a-z0-9+.-]*:[^\s<>"{}|\\^`]+$/i, 'an absolute address as in https:… or urn:…'),
});

/** A term as another one names it. */
export const TermRef = shape({ id: text, name: text, status: oneOf(TERM_STATUSES), scheme: text });
export type TermRef = Of<typeof TermRef>;
/** A term in a list. */
export const TermLine = shape({
  id: text,
  name: text,
  scheme: text,
  status: oneOf(TERM_STATUSES),
  assets: number,
  narrower: number.description('How many terms lie directly below it.'),
  depth: number,
  by: nullable(text).description('The label by which it was found, where that is not its name.'),
});
export type TermLine = Of<typeof TermLine>;

export const TermAnswer = shape({
  id: text,
  uri: text,
  schemeId: text,
  scheme: text,
  name: text,
  language: text,
  labels: list(label),
  definition: text,
  notes: list(note),
  broader: list(TermRef),
  narrower: list(TermRef).description('The first 200 of them.'),
  narrowerCount: number,
  related: list(TermRef),
  matches: list(match),
  status: oneOf(TERM_STATUSES),
  ownerId: nullable(text),
  owner: nullable(text),
  assets: number,
  mayEdit: flag,
  mayApprove: flag.description('Whether you may agree to it: who may not changes an agreed term into a proposed one.'),
  version: number,
});
export type TermAnswer = Of<typeof TermAnswer>;

const fields = {
  schemeId: optional(id),
  name: optional(Joi.string().trim().min(1).max(TERM_MOST.name)),
  language: optional(language.allow('')),
  labels: optional(list(label).max(TERM_MOST.labels)),
  definition: optional(Joi.string().trim().allow('').max(TERM_MOST.text)),
  notes: optional(list(note).max(TERM_MOST.notes)),
  broaderIds: optional(list(id).max(TERM_MOST.broader).unique()),
  relatedIds: optional(list(id).max(TERM_MOST.related).unique()),
  matches: optional(list(match).max(TERM_MOST.matches)),
  status: optional(oneOf(TERM_STATUSES)),
  ownerId: optional(nullable(id)),
};

export const ConflictAnswer = shape({
  kind: oneOf(Object.keys(CONFLICT_KINDS) as ConflictKind[]),
  detail: text,
  terms: list(TermRef),
  report: optional(shape({ id: text, name: text })),
});
export type ConflictAnswer = Of<typeof ConflictAnswer>;

const editors = role('editor', 'any domain');
/** Classes and tags that a term says the meaning of. */
export const TermCarriers = shape({
  classes: list(shape({ key: text, label: text })),
  tags: list(shape({ id: text, name: text })),
});
export type TermCarriers = Of<typeof TermCarriers>;
export const TermBrief = shape({ id: text, name: text, status: oneOf(TERM_STATUSES) });
export type TermBrief = Of<typeof TermBrief>;

export const termEndpoints = {
  list: endpoint({
    id: 'terms',
    method: 'get',
    path: '/terms',
    area: 'glossary',
    summary: 'Terms by the words of their labels',
    may: 'signed in',
    query: shape({
      search: withDefault(Joi.string().trim().allow('').max(200), ''),
      scheme: optional(id),
      status: optional(oneOf(TERM_STATUSES)),
      limit: withDefault(Joi.number().integer().min(1).max(200), 100),
      offset: withDefault(Joi.number().integer().min(0).max(1_000_000), 0),
    }),
    answer: shape({ items: list(TermLine), total: number, next: nullable(text) }),
    answers: 'Terms, those whose name fits best first.',
  }),
  tree: endpoint({
    id: 'termTree',
    method: 'get',
    path: '/terms/tree',
    area: 'glossary',
    summary: 'Terms below their broader ones',
    may: 'signed in',
    query: shape({
      scheme: optional(id),
      open: optional(Joi.string().allow('').max(12_000)).description(
        'Ids of terms whose narrower ones are shown, with commas between; left out: all, where there are no more than 300 terms.',
      ),
    }),
    answer: shape({ lines: list(TermLine), terms: number, open: nullable(list(text)), more: flag }),
    answers: 'Lines in their order; a term below two others stands twice. `more`: not all of them fit.',
  }),
  one: endpoint({
    id: 'term',
    method: 'get',
    path: '/terms/:id',
    area: 'glossary',
    summary: 'A term with all that is said of it',
    may: 'signed in',
    params: idParam,
    answer: TermAnswer,
    answers: 'The term.',
  }),
  conflicts: endpoint({
    id: 'termConflicts',
    method: 'get',
    path: '/term-conflicts',
    area: 'glossary',
    summary: 'What is amiss among the terms',
    may: 'signed in',
    heavy: true,
    answer: shape({ items: list(ConflictAnswer), total: number }),
    answers: 'The first 500 of each kind.',
  }),
  create: endpoint({
    id: 'createTerm',
    method: 'post',
    path: '/terms',
    area: 'glossary',
    summary: 'Create a term',
    may: editors,
    body: shape({ ...fields, name: needed(fields.name) }),
    problems: ['not-found', 'name-taken'],
    answer: TermAnswer,
    answers:
      'The term, in the oldest scheme where none is named. `agreed` by who may not agree to it, it is `proposed`.',
  }),
  change: endpoint({
    id: 'changeTerm',
    method: 'patch',
    path: '/terms/:id',
    area: 'glossary',
    summary: 'Change a term',
    may: editors,
    params: idParam,
    body: shape(fields).min(1),
    versioned: true,
    problems: ['name-taken'],
    answer: TermAnswer,
    answers: 'The term. An agreed one that is changed by who may not agree to it is proposed anew.',
  }),
  remove: endpoint({
    id: 'removeTerm',
    method: 'delete',
    path: '/terms/:id',
    area: 'glossary',
    summary: 'Remove a term: nothing carries it any more, until it is brought back',
    may: role('editor', 'any domain', 'and to agree to it, once it was agreed'),
    params: idParam,
    answers: 'Nothing.',
  }),
  carriers: endpoint({
    id: 'termCarriers',
    method: 'get',
    path: '/terms/:id/carriers',
    area: 'glossary',
    summary: 'Classes and tags that a term says the meaning of',
    may: 'signed in',
    params: idParam,
    answer: TermCarriers,
    answers: 'What carries the term beside assets.',
  }),
  carry: endpoint({
    id: 'carryTerm',
    method: 'post',
    path: '/terms/:id/carriers',
    area: 'glossary',
    summary: 'Give a term to a class or a tag, or take it away',
    may: editors,
    params: idParam,
    body: shape({
      class: optional(Joi.string().max(80)).description('The key of a class; or'),
      tag: optional(id).description('the id of a tag.'),
      carries: flag,
    }).xor('class', 'tag'),
    answer: TermCarriers,
    answers: 'What carries the term now.',
  }),
  ofCarrier: endpoint({
    id: 'termsOfCarrier',
    method: 'get',
    path: '/term-carriers',
    area: 'glossary',
    summary: 'Terms that say what a class or a tag means',
    may: 'signed in',
    query: shape({ class: optional(Joi.string().max(80)), tag: optional(id) }).xor('class', 'tag'),
    answer: list(TermBrief),
    answers: 'The terms, by name.',
  }),
  bringBack: endpoint({
    id: 'bringBackTerm',
    method: 'post',
    path: '/terms/:id/bring-back',
    area: 'glossary',
    summary: 'Bring a removed term back, to all that carried it',
    may: editors,
    params: idParam,
    problems: ['name-taken'],
    answer: TermAnswer,
    answers: 'The term.',
  }),
};
