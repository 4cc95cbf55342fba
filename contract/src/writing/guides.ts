import { MENTIONED } from '@idrel/core/writing/mentions';
import {
  endpoint,
  id,
  idParam,
  Joi,
  list,
  moment,
  nullable,
  number,
  type Of,
  oneOf,
  role,
  shape,
  text,
} from '../http/index.ts';
import { PersonBrief } from '../people/index.ts';
import { assetKind } from '../things/assetKind.ts';

/** So long a guide may be, in letters. */
export const GUIDE_MOST = 60_000;
/** So large a picture may be, in bytes. */
export const PICTURE_MOST = 2 << 20;
export const PICTURE_TYPES = ['image/png', 'image/jpeg', 'image/webp', 'image/gif'] as const;

/** Markdown as people write it; what it mentions stands in it as `[name](idrel:asset/…)`. */
export const markdown = (most: number) => Joi.string().allow('').max(most);

export const GuideAnswer = shape({
  assetId: text,
  text: text.description('Markdown. What it mentions is called as it is called now, if you may see it.'),
  version: number.description('0: there is none yet.'),
  by: nullable(PersonBrief),
  at: nullable(moment),
  template: text.description('What a guide of an asset of this kind begins with.'),
});
export type GuideAnswer = Of<typeof GuideAnswer>;

export const GuideVersion = shape({
  version: number,
  by: nullable(PersonBrief),
  at: moment,
  letters: number,
});
export type GuideVersion = Of<typeof GuideVersion>;

/** Somebody who has the guide open to write in it, just now. */
export const WriterHere = shape({ person: PersonBrief, since: moment });
export type WriterHere = Of<typeof WriterHere>;

export const TemplateAnswer = shape({ kind: assetKind, text, version: number });
export type TemplateAnswer = Of<typeof TemplateAnswer>;

export const Mentionable = shape({
  kind: oneOf(MENTIONED),
  id: text,
  name: text,
  of: text.description('What tells it from others of its name: a job, a kind and where it lies.'),
});
export type Mentionable = Of<typeof Mentionable>;

const rights = role('editor', 'its domain');
export const guideEndpoints = {
  guide: endpoint({
    id: 'guide',
    method: 'get',
    path: '/assets/:id/guide',
    area: 'writing',
    summary: 'The guide of an asset',
    may: 'signed in',
    params: idParam,
    answer: GuideAnswer,
    answers: 'The guide, or an empty one with version 0.',
  }),
  save: endpoint({
    id: 'saveGuide',
    method: 'put',
    path: '/assets/:id/guide',
    area: 'writing',
    summary: 'Write the guide of an asset',
    may: rights,
    params: idParam,
    body: shape({ text: markdown(GUIDE_MOST) }),
    versioned: true,
    heavy: true,
    answer: GuideAnswer,
    answers: 'The guide as it is now. Each version is kept.',
  }),
  versions: endpoint({
    id: 'guideVersions',
    method: 'get',
    path: '/assets/:id/guide/versions',
    area: 'writing',
    summary: 'Who wrote the guide, and when',
    may: 'signed in',
    params: idParam,
    answer: list(GuideVersion),
    answers: 'Versions, newest first; the last 200.',
  }),
  version: endpoint({
    id: 'guideVersion',
    method: 'get',
    path: '/assets/:id/guide/versions/:version',
    area: 'writing',
    summary: 'The guide as it was',
    may: 'signed in',
    params: shape({ id, version: Joi.number().integer().min(1).max(1_000_000_000) }),
    answer: GuideAnswer,
    answers: 'The guide in that version.',
  }),
  here: endpoint({
    id: 'writersHere',
    method: 'put',
    path: '/assets/:id/guide/here',
    area: 'writing',
    summary: 'Say that you are writing in the guide, and see who else is',
    may: rights,
    params: idParam,
    body: shape({ writing: Joi.boolean() }),
    answer: list(WriterHere),
    answers: 'The others who said so in the last half minute.',
  }),
  mentionable: endpoint({
    id: 'mentionable',
    method: 'get',
    path: '/mentionable',
    area: 'writing',
    summary: 'People, groups, assets and terms that a text can mention',
    may: 'signed in',
    query: shape({ q: Joi.string().trim().allow('').max(100) }),
    answer: list(Mentionable),
    answers: 'What fits the words, at most 12.',
  }),
  addPicture: endpoint({
    id: 'addPicture',
    method: 'post',
    path: '/assets/:id/pictures',
    area: 'writing',
    summary: 'Keep a picture for the guide of an asset',
    may: rights,
    params: idParam,
    body: shape({
      content: Joi.string()
        .base64()
        .max(Math.ceil((PICTURE_MOST * 4) / 3) + 4),
    }),
    bodyBytes: 4 << 20,
    answer: shape({ id: text, type: oneOf(PICTURE_TYPES), width: number, height: number }),
    answers: 'The picture, to be shown by `![what it shows](idrel:picture/…)`. PNG, JPEG, WebP or GIF, at most 2 MB.',
  }),
  picture: endpoint({
    id: 'picture',
    method: 'get',
    path: '/pictures/:id',
    area: 'writing',
    summary: 'A picture of a guide',
    may: 'signed in',
    params: idParam,
    stream: 'bytes',
    answers: 'The bytes of the picture; for who may see the asset whose guide shows it.',
  }),
  templates: endpoint({
    id: 'guideTemplates',
    method: 'get',
    path: '/guide-templates',
    area: 'writing',
    summary: 'What guides begin with, by kind of asset',
    may: 'signed in',
    answer: list(TemplateAnswer),
    answers: 'One for each kind; an empty one where nothing is given.',
  }),
  changeTemplate: endpoint({
    id: 'changeGuideTemplate',
    method: 'put',
    path: '/guide-templates/:kind',
    area: 'writing',
    summary: 'Say what guides of a kind begin with',
    may: { words: 'administrator everywhere' },
    params: shape({ kind: assetKind }),
    body: shape({ text: markdown(GUIDE_MOST) }),
    versioned: true,
    answer: TemplateAnswer,
    answers: 'The template as it is now. Guides that are written already stay as they are.',
  }),
};
