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
  shape,
  text,
} from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';

/** How a picture of lineage stands: what is shown of it, folded and marked, and what somebody moved where. Lengths in pixels. */
const shows = shape({
  upstream: Joi.number().integer().min(0).max(20),
  downstream: Joi.number().integer().min(0).max(20),
  column: nullable(id).description('The column that is followed.'),
  at: nullable(moment).description('As it stood then; null: as it stands.'),
  before: nullable(moment),
  rows: flag.description('With what only decides rows.'),
  fold: nullable(oneOf(['schema', 'source', 'domain'])),
  open: list(Joi.string().max(800)).max(300).description('Groups that stand unfolded.'),
  hidden: list(Joi.string().max(40)).max(40).description('Kinds of edges and of assets that are left out.'),
  mark: Joi.string().trim().allow('').max(4000).description('Filter language: what it finds is marked.'),
  only: flag.description('What is not marked is left out.'),
  places: list(shape({ id: Joi.string().max(800), x: number.max(1e6).min(-1e6), y: number.max(1e6).min(-1e6) }))
    .max(2500)
    .description('Where somebody moved a table, a flow or a group to.'),
});

export const KeptViewBody = shape({
  name: Joi.string().trim().min(1).max(80),
  focus: id,
  shared: flag.description('Whether everybody who may see the asset sees it.'),
  shows,
});
export type KeptViewBody = Of<typeof KeptViewBody>;
const brief = {
  id: text,
  name: text,
  focus: shape({ id: text, kind: assetKind, path: text }),
  shared: flag,
  madeBy: nullable(text).description('Of one that somebody else shares: who does.'),
  version: Joi.number(),
};
export const KeptViewBrief = shape(brief);
export type KeptViewBrief = Of<typeof KeptViewBrief>;
export const KeptView = shape({ ...brief, shows });
export type KeptView = Of<typeof KeptView>;

const own = { words: 'who made it' };
export const keptViewEndpoints = {
  fitting: endpoint({
    id: 'fittingInPicture',
    method: 'post',
    path: '/lineage/fitting',
    area: 'lineage',
    summary: 'Which of the assets of a picture a filter finds',
    may: 'signed in',
    body: shape({
      ids: list(id).max(2500),
      filter: Joi.string().trim().min(1).max(4000).description('Filter language'),
    }),
    answer: list(text),
    answers: 'Ids of those that it finds and you may see.',
  }),
  list: endpoint({
    id: 'keptViews',
    method: 'get',
    path: '/lineage/views',
    area: 'lineage',
    summary: 'Pictures of lineage that you keep, and that others share',
    may: 'signed in',
    answer: list(KeptViewBrief),
    answers: 'Those of assets that you may see: your own first, each by name.',
  }),
  get: endpoint({
    id: 'keptView',
    method: 'get',
    path: '/lineage/views/:id',
    area: 'lineage',
    summary: 'A picture of lineage that is kept, with how it stands',
    may: 'signed in',
    params: idParam,
    answer: KeptView,
    answers: 'The picture. Whoever opens it sees what they may see.',
  }),
  create: endpoint({
    id: 'keepView',
    method: 'post',
    path: '/lineage/views',
    area: 'lineage',
    summary: 'Keep a picture of lineage',
    may: 'signed in',
    body: KeptViewBody,
    problems: ['name-taken', 'not-found'],
    answer: KeptView,
    answers: 'The picture.',
  }),
  change: endpoint({
    id: 'changeView',
    method: 'put',
    path: '/lineage/views/:id',
    area: 'lineage',
    summary: 'Change a picture that you keep',
    may: own,
    params: idParam,
    body: KeptViewBody,
    versioned: true,
    problems: ['name-taken'],
    answer: KeptView,
    answers: 'The picture as it is now.',
  }),
  remove: endpoint({
    id: 'removeView',
    method: 'delete',
    path: '/lineage/views/:id',
    area: 'lineage',
    summary: 'Keep a picture no more',
    may: own,
    params: idParam,
    answers: 'Nothing.',
  }),
  bringBack: endpoint({
    id: 'bringBackView',
    method: 'post',
    path: '/lineage/views/:id/bring-back',
    area: 'lineage',
    summary: 'Keep a removed picture again',
    may: own,
    params: idParam,
    problems: ['name-taken'],
    answer: KeptView,
    answers: 'The picture.',
  }),
};
