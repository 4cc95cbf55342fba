import { CLUES, SUGGESTED } from '@idrel/core/catalog';
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
  role,
  shape,
  text,
  whole,
} from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';

export const SuggestionAnswer = shape({
  asset: shape({ id: text, kind: assetKind, name: text, version: number }),
  field: oneOf(SUGGESTED),
  value: text.description(
    'What would be written: a text, the id of a term or a person, the id of a tag (with a value: id/value), or the key of a class.',
  ),
  label: text,
  weight: number.description('How much speaks for it, from 0 to 1.'),
  clues: list(
    shape({
      kind: oneOf(CLUES).description(
        'Its comment at the source; what it is made from or what is made from it; columns of its name; what lies beside it and ends in the same word; what it lies in; what lies beside it; who writes of it most.',
      ),
      of: whole.description('Of so many …'),
      say: whole.description('… so many say so.'),
      by: nullable(shape({ id: text, path: text })).description('One that says so.'),
    }),
  ),
});
export type SuggestionAnswer = Of<typeof SuggestionAnswer>;

const taken = shape({ assetId: id, field: oneOf(SUGGESTED), value: Joi.string().min(1).max(20_000) });
export type TakenSuggestion = Of<typeof taken>;

const rights = role('editor', 'its domain');
export const suggestionEndpoints = {
  list: endpoint({
    id: 'suggestions',
    method: 'get',
    path: '/assets/:id/suggestions',
    area: 'curation',
    summary: 'What could be said of an asset and its columns, and what speaks for it',
    may: rights,
    params: idParam,
    answer: list(SuggestionAnswer),
    answers: 'Suggestions for what is not said yet and was not refused, the strongest first; at most 100.',
  }),
  take: endpoint({
    id: 'takeSuggestions',
    method: 'post',
    path: '/suggestions/taken',
    area: 'curation',
    summary: 'Take suggestions, each as an edit of its asset; or take that back',
    may: rights,
    body: shape({ items: list(taken).min(1).max(500), taken: flag }),
    problems: ['not-found'],
    answer: shape({
      taken: whole,
      passedOver: list(shape({ assetId: text, why: text })).description('What somebody has said otherwise meanwhile.'),
    }),
    answers:
      'How many were taken, or taken back. What is said already is not written over; only what stands as it was taken is taken back.',
  }),
  refuse: endpoint({
    id: 'refuseSuggestions',
    method: 'post',
    path: '/suggestions/refused',
    area: 'curation',
    summary: 'Refuse suggestions for good, or take that back',
    may: rights,
    body: shape({ items: list(taken).min(1).max(500), refused: flag }),
    problems: ['not-found'],
    answers: 'Nothing. What was refused does not come back.',
  }),
};
