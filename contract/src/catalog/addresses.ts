import { LINK_KINDS, STANDINGS } from '@idrel/core/catalog';
import {
  endpoint,
  idParam,
  Joi,
  list,
  moment,
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

/** What an address shows where it is pasted. */
export const Card = shape({
  title: text,
  description: text,
  standing: nullable(oneOf(STANDINGS)),
  owners: list(text),
});
export type Card = Of<typeof Card>;

export const linkUrl = Joi.string()
  .max(2000)
  .uri({ scheme: ['https', 'http', 'mailto'] })
  // What stands before the @ is a secret, and a link is shown to everybody who sees the asset.
  .pattern(/^https?:\/\/[^/?#]*@/, { invert: true })
  .messages({ 'string.pattern.invert.base': '{{#label}} holds a name or a password: leave them out' });
export const linkTitle = Joi.string().trim().min(1).max(200);
export const LinkBody = shape({ kind: oneOf(LINK_KINDS), url: linkUrl, title: linkTitle });
export type LinkBody = Of<typeof LinkBody>;
export const LinkAnswer = shape({
  id: text,
  assetId: text,
  kind: oneOf(LINK_KINDS),
  url: text,
  title: text,
  maker: nullable(text),
  createdAt: moment,
  version: number,
});
export type LinkAnswer = Of<typeof LinkAnswer>;

/** What the page says of itself that a link leads to. */
export const LinkPreview = shape({
  linkId: text,
  title: nullable(text),
  text: nullable(text),
  site: nullable(text).description('What the page belongs to, as it says.'),
  problem: nullable(text).description('Why there is nothing to be shown.'),
});
export type LinkPreview = Of<typeof LinkPreview>;

const rights = role('editor', 'its domain');
export const addressEndpoints = {
  at: endpoint({
    id: 'assetAt',
    method: 'get',
    path: '/asset-at',
    area: 'catalog',
    summary: 'Where a readable address leads',
    may: 'signed in',
    query: shape({ address: Joi.string().max(4000).description('As in /at/Warehouse/core/passenger') }),
    problems: ['not-found'],
    answer: shape({ id: text, place: text.description('Its readable address as it is now.') }),
    answers: 'The asset, also by what it or its source was called before.',
  }),
  oembed: endpoint({
    id: 'oembed',
    method: 'get',
    path: '/oembed',
    area: 'catalog',
    summary: 'What an address shows where it is pasted (oEmbed 1.0)',
    may: 'anybody',
    query: shape({
      url: Joi.string().max(4000),
      format: withDefault(oneOf(['json', 'xml']), 'json'),
      maxwidth: optional(Joi.number().integer().min(0)),
      maxheight: optional(Joi.number().integer().min(0)),
    }),
    problems: ['not-offered'],
    answer: shape({
      version: oneOf(['1.0']),
      type: oneOf(['link']),
      title: text,
      author_name: optional(text),
      provider_name: text,
      provider_url: text,
      cache_age: number,
    }),
    answers:
      'A link with its title; of assets whose domain is not shown outside, and of addresses at which nothing is, the same for all. JSON only.',
  }),
  links: endpoint({
    id: 'links',
    method: 'get',
    path: '/assets/:id/links',
    area: 'catalog',
    summary: 'Where more is said of an asset',
    may: 'signed in',
    params: idParam,
    answer: list(LinkAnswer),
    answers: 'Links to documents, tickets, queries and repositories.',
  }),
  linkPreviews: endpoint({
    id: 'linkPreviews',
    method: 'get',
    path: '/assets/:id/link-previews',
    area: 'catalog',
    summary: 'What the pages say of themselves that the links of an asset lead to',
    may: 'signed in',
    params: idParam,
    answer: list(LinkPreview),
    answers:
      'Of links to places that the operator has named, as their pages are now or were in the last ten minutes. Nothing is asked of any other place.',
  }),
  addLink: endpoint({
    id: 'addLink',
    method: 'post',
    path: '/assets/:id/links',
    area: 'catalog',
    summary: 'Add a link to an asset',
    may: rights,
    params: idParam,
    body: LinkBody,
    answer: LinkAnswer,
    answers: 'The link.',
  }),
  changeLink: endpoint({
    id: 'changeLink',
    method: 'put',
    path: '/links/:id',
    area: 'catalog',
    summary: 'Change a link',
    may: rights,
    params: idParam,
    body: LinkBody,
    versioned: true,
    answer: LinkAnswer,
    answers: 'The link as it is now.',
  }),
  removeLink: endpoint({
    id: 'removeLink',
    method: 'delete',
    path: '/links/:id',
    area: 'catalog',
    summary: 'Take a link away',
    may: rights,
    params: idParam,
    answers: 'Nothing.',
  }),
  bringBackLink: endpoint({
    id: 'bringBackLink',
    method: 'post',
    path: '/links/:id/bring-back',
    area: 'catalog',
    summary: 'Bring a link back that was taken away',
    may: rights,
    params: idParam,
    answer: LinkAnswer,
    answers: 'The link.',
  }),
};
