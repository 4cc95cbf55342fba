import { endpoint, flag, idParam, Joi, list, nullable, type Of, shape, text } from '../http/index.ts';

export const SearchBody = shape({
  name: Joi.string().trim().min(1).max(80),
  filter: Joi.string().trim().min(1).max(2000).description('Filter language'),
  shared: flag.description('Whether everybody sees it; each finds what they may see.'),
});
export type SearchBody = Of<typeof SearchBody>;
export const SearchAnswer = shape({
  id: text,
  name: text,
  filter: text,
  shared: flag,
  madeBy: nullable(text).description('Of a search that somebody else shares: who does.'),
  pinned: flag.description('Whether it stands in your rail.'),
  version: Joi.number(),
});
export type SearchAnswer = Of<typeof SearchAnswer>;

const own = { words: 'who made it' };
export const searchEndpoints = {
  list: endpoint({
    id: 'savedSearches',
    method: 'get',
    path: '/searches',
    area: 'catalog',
    summary: 'Searches that you keep, and that others share',
    may: 'signed in',
    answer: list(SearchAnswer),
    answers: 'Your own first, each by name.',
  }),
  create: endpoint({
    id: 'saveSearch',
    method: 'post',
    path: '/searches',
    area: 'catalog',
    summary: 'Keep a search',
    may: 'signed in',
    body: SearchBody,
    problems: ['name-taken'],
    answer: SearchAnswer,
    answers: 'The search; it stands in your rail.',
  }),
  change: endpoint({
    id: 'changeSearch',
    method: 'put',
    path: '/searches/:id',
    area: 'catalog',
    summary: 'Change a search that you keep',
    may: own,
    params: idParam,
    body: SearchBody,
    versioned: true,
    problems: ['name-taken'],
    answer: SearchAnswer,
    answers: 'The search as it is now.',
  }),
  remove: endpoint({
    id: 'removeSearch',
    method: 'delete',
    path: '/searches/:id',
    area: 'catalog',
    summary: 'Keep a search no more',
    may: own,
    params: idParam,
    answers: 'Nothing.',
  }),
  bringBack: endpoint({
    id: 'bringBackSearch',
    method: 'post',
    path: '/searches/:id/bring-back',
    area: 'catalog',
    summary: 'Keep a removed search again',
    may: own,
    params: idParam,
    problems: ['name-taken'],
    answer: SearchAnswer,
    answers: 'The search.',
  }),
  pin: endpoint({
    id: 'pinSearch',
    method: 'put',
    path: '/searches/:id/pinned',
    area: 'catalog',
    summary: 'Put a search into your rail, or take it out',
    may: 'signed in',
    params: idParam,
    body: shape({ pinned: flag }),
    answer: SearchAnswer,
    answers: 'The search.',
  }),
};
