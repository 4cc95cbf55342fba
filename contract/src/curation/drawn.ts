import { AssetAnswer } from '../catalog/index.ts';
import { endpoint, id, idParam, Joi, list, type Of, oneOf, role, shape, withDefault } from '../http/index.ts';

/** What can be drawn by hand: what no scan sees. */
export const DRAWN_KINDS = ['application', 'table', 'file', 'file set', 'report', 'dashboard', 'flow'] as const;

export const DrawnBody = shape({
  near: id.description('An asset beside which it stands: it lies in the domain of that.'),
  kind: oneOf(DRAWN_KINDS),
  name: Joi.string().trim().min(1).max(200),
  description: withDefault(Joi.string().trim().allow('').max(20_000), ''),
  ownerIds: withDefault(list(id).max(1), []).description('Who answers for it: a person or a group.'),
  columns: withDefault(list(Joi.string().trim().min(1).max(200)).max(500).unique(), []),
});
export type DrawnBody = Of<typeof DrawnBody>;

const editor = role('editor', 'its domain');

export const drawnEndpoints = {
  draw: endpoint({
    id: 'drawAsset',
    method: 'post',
    path: '/drawn-assets',
    area: 'curation',
    summary: 'Add an asset that no scan can see',
    may: editor,
    body: DrawnBody,
    problems: ['name-taken', 'not-found', 'run-going'],
    answer: AssetAnswer,
    answers:
      'The asset, in a source of what is drawn by hand in its domain. One that was taken away comes back with all that was written.',
  }),
  takeAway: endpoint({
    id: 'takeDrawnAway',
    method: 'delete',
    path: '/drawn-assets/:id',
    area: 'curation',
    summary: 'Take away an asset that was drawn by hand',
    may: editor,
    params: idParam,
    problems: ['run-going'],
    answers: 'Nothing. It is gone like what a scan finds no more: what was written of it is kept.',
  }),
};
