import { TRAVEL_KINDS } from '@idrel/core/catalog';
import { AssetAnswer } from '../catalog/index.ts';
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
  withDefault,
} from '../http/index.ts';
import { TravelPreview } from '../recognition/index.ts';
import { assetKind } from '../things/assetKind.ts';

/** A tag that an asset carries; the value is empty where it is given without one. */
export const TagGiven = shape({ id: text, name: text, value: text });
export type TagGiven = Of<typeof TagGiven>;

/** What a tag can be called: it stands in filters, before a stroke and its value. */
export const TAG_NAME = /^[\p{L}\p{N}][\p{L}\p{N} ._-]*$/u;
export const tagValue = Joi.string()
  .trim()
  .max(100)
  .pattern(/^[^\n\r]*$/, 'one line');
/** What a tag is made of. */
export const tagFields = {
  name: Joi.string()
    .trim()
    .min(1)
    .max(60)
    .pattern(TAG_NAME, 'letters, digits, spaces, dots, dashes and underscores')
    .invalid('none', 'any')
    .insensitive(),
  description: Joi.string().trim().allow('').max(2000),
  permitted: nullable(
    list(tagValue.min(1))
      .max(200)
      .unique((a: string, b: string) => a.toLowerCase() === b.toLowerCase()),
  ).description('The values that may be given; null: any; none of them: the tag is given without a value.'),
  kinds: nullable(list(assetKind).min(1).unique()).description('Kinds of asset that may carry it; null: every kind.'),
  groupIds: list(id).max(50).unique().description('Groups whose members may give and take it; empty: every editor.'),
  travels: withDefault(list(oneOf(TRAVEL_KINDS)).unique().max(TRAVEL_KINDS.length), []).description(
    'What can happen to a value along lineage, and the tag still goes on with it; none: it stays where it is given.',
  ),
};
export const TagBody = shape(tagFields);
export type TagBody = Of<typeof TagBody>;
export const TagAnswer = shape({
  id: text,
  name: text,
  description: text,
  permitted: nullable(list(text)),
  kinds: nullable(list(assetKind)),
  groupIds: list(text),
  groups: list(text),
  travels: list(oneOf(TRAVEL_KINDS)),
  assets: number.description('How many assets were given it, of those that you may see.'),
  arrived: number.description('To how many more it came along lineage.'),
  values: list(shape({ value: text, assets: number })).description(
    'How many of them with which value, the most frequent first.',
  ),
  mayGive: flag,
  version: number,
});
export type TagAnswer = Of<typeof TagAnswer>;

/** How a tag would go on along lineage, and which kinds of asset could carry it. */
export const TagTravel = shape({ travels: tagFields.travels, kinds: tagFields.kinds });
export type TagTravel = Of<typeof TagTravel>;

/** What would become of what carries a tag, were it merged into another. */
export const TagMerge = shape({
  assets: number.description('How many carry the tag that goes.'),
  both: number.description('How many of them carry the other one too: they keep its value.'),
  unpermitted: number.description(
    'How many have a value that the other one does not permit: they get it without a value.',
  ),
  unsuited: number.description('How many are of a kind that may not carry the other one: they lose the tag.'),
  searches: list(text).description('Routines whose searches name it, and would find it no more.'),
});
export type TagMerge = Of<typeof TagMerge>;

const rights = role('steward', 'any domain');
export const tagEndpoints = {
  list: endpoint({
    id: 'tags',
    method: 'get',
    path: '/tags',
    area: 'curation',
    summary: 'All tags',
    may: 'signed in',
    answer: list(TagAnswer),
    answers: 'Tags with how many assets carry each, and with which value.',
  }),
  create: endpoint({
    id: 'createTag',
    method: 'post',
    path: '/tags',
    area: 'curation',
    summary: 'Make a tag',
    may: rights,
    body: TagBody,
    problems: ['name-taken'],
    answer: TagAnswer,
    answers: 'The tag.',
  }),
  change: endpoint({
    id: 'changeTag',
    method: 'put',
    path: '/tags/:id',
    area: 'curation',
    summary: 'Change a tag; what carries it goes on carrying it',
    may: rights,
    params: idParam,
    body: TagBody,
    versioned: true,
    problems: ['name-taken'],
    answer: TagAnswer,
    answers: 'The tag as it is now.',
  }),
  remove: endpoint({
    id: 'removeTag',
    method: 'delete',
    path: '/tags/:id',
    area: 'curation',
    summary: 'Remove a tag: nothing carries it any more, until it is brought back',
    may: rights,
    params: idParam,
    answers: 'Nothing.',
  }),
  bringBack: endpoint({
    id: 'bringBackTag',
    method: 'post',
    path: '/tags/:id/bring-back',
    area: 'curation',
    summary: 'Bring a removed tag back, to all that carried it',
    may: rights,
    params: idParam,
    problems: ['name-taken'],
    answer: TagAnswer,
    answers: 'The tag.',
  }),
  previewTravel: endpoint({
    id: 'previewTagTravel',
    method: 'post',
    path: '/tags/:id/travel-preview',
    area: 'curation',
    summary: 'To what a tag would come along lineage, and from what it would go, if it went on otherwise',
    may: rights,
    params: idParam,
    body: TagTravel,
    answer: TravelPreview,
    answers: 'How many assets, and the first of them. Nothing is changed.',
  }),
  refuse: endpoint({
    id: 'refuseTag',
    method: 'put',
    path: '/assets/:id/arrived-tags/:tag',
    area: 'curation',
    summary: 'Refuse a tag that comes to an asset along lineage, there and for what lies behind it, or let it in again',
    may: role('editor', 'its domain', 'member of the groups that give the tag'),
    params: shape({ id, tag: id }),
    body: shape({ refused: flag }),
    answer: AssetAnswer,
    answers: 'The asset as it is now.',
  }),
  mergePreview: endpoint({
    id: 'previewTagMerge',
    method: 'get',
    path: '/tags/:id/merge',
    area: 'curation',
    summary: 'What would become of what carries a tag, were it merged into another',
    may: rights,
    params: idParam,
    query: shape({ into: id }),
    answer: TagMerge,
    answers: 'Counts; nothing is written.',
  }),
  merge: endpoint({
    id: 'mergeTag',
    method: 'post',
    path: '/tags/:id/merge',
    area: 'curation',
    summary: 'Merge a tag into another: what carries it carries the other one, and the tag is removed',
    may: rights,
    params: idParam,
    body: shape({
      into: id,
      assets: Joi.number()
        .integer()
        .min(0)
        .description('How many you saw carry it: when it is another number by now, nothing is done'),
    }),
    problems: ['count-differs'],
    answer: TagAnswer,
    answers: 'The tag that is left.',
  }),
};
