import { REMARK_LONGEST } from '@idrel/core/catalog';
import { CONSEQUENCES, PROPOSALS } from '@idrel/core/lineage';
import {
  endpoint,
  flag,
  id,
  Joi,
  list,
  nullable,
  number,
  type Of,
  oneOf,
  optional,
  shape,
  text,
} from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';

/** What somebody thinks of doing to an asset. */
export const proposedFields = {
  asset: id,
  what: oneOf(PROPOSALS).description(
    'Of a column: `drop`, `rename`, `retype`, `forbid nulls`, `mask`; of what is read whole `drop` or `rename`; of a flow `stop`.',
  ),
  to: optional(Joi.string().trim().min(1).max(200)).description(
    'The new type, of `retype`; the new name, of `rename`, where it is known.',
  ),
};

const consequence = oneOf(CONSEQUENCES).description('The gravest thing that comes to it on any way.');
const role = oneOf(['owner', 'steward', 'custodian', 'asks']);
export const ProposedRow = shape({
  id: text,
  kind: assetKind,
  name: text,
  path: text,
  source: text,
  domain: text,
  within: nullable(text).description('Of a column: the id of what it lies in.'),
  consequence,
  why: text,
  distance: number,
  way: list(text).description('Paths from what changes to it.'),
  standing: text,
  level: nullable(number),
  owners: list(text).description('Of what has none of its own, those of what it lies in, else of its domain.'),
  asked: number.description('How often it was asked for, as far as that is kept.'),
});
export type ProposedRow = Of<typeof ProposedRow>;

export const ProposedImpact = shape({
  asset: shape({ id: text, kind: assetKind, path: text, source: text, type: nullable(text) }),
  facts: list(text).description('What stands against it, or has to be known, of the asset itself: keys, empty values.'),
  rows: list(ProposedRow).description('The gravest first, then the nearest; at most 5,000.'),
  flows: list(shape({ id: text, path: text, source: text, consequence, why: text, owners: list(text) })).description(
    'Flows that are assets of their own and do not go on as they did.',
  ),
  people: list(
    shape({
      id: text.description('Of a person or a group.'),
      name: text,
      group: flag,
      roles: list(role),
      assets: number.description('Of what is concerned, how much they answer for.'),
      asked: number.description('How often they asked for what is concerned; 0 where you may not see who asks.'),
    }),
  ).description('Whom to tell: who answers for what does not go on as it did, or has asked for it.'),
  policies: list(shape({ id: text, name: text, effect: text, why: text })).description(
    'Policies in force that name what changes, or hold by a class that it carries; as far as you may see them.',
  ),
  checks: list(shape({ of: text, what: text, flow: text })).description(
    'Checks of the last runs that look at what changes or at what is concerned.',
  ),
  hidden: number.description('What is concerned, and not yours to see.'),
  more: number.description('What is concerned, and not among the rows.'),
});
export type ProposedImpact = Of<typeof ProposedImpact>;

export const proposedEndpoints = {
  proposed: endpoint({
    id: 'proposedImpact',
    method: 'get',
    path: '/lineage/proposed',
    area: 'lineage',
    summary: 'What a proposed change would do to all that is made of an asset',
    may: 'signed in',
    query: shape(proposedFields),
    heavy: true,
    problems: ['not-found'],
    answer: ProposedImpact,
    answers:
      'What would be refused, fail, get nothing new, differ or still show the value, each with the reason and the way; and whom to tell.',
  }),
  tell: endpoint({
    id: 'tellOfProposed',
    method: 'post',
    path: '/lineage/proposed/message',
    area: 'lineage',
    summary: 'Tell those concerned of a proposed change',
    may: 'signed in',
    body: shape({
      ...proposedFields,
      text: Joi.string().trim().min(1).max(REMARK_LONGEST).description('Markdown.'),
      people: list(id).min(1).max(500).description('People and groups, of those whom the impact names.'),
    }),
    heavy: true,
    problems: ['not-found'],
    answer: shape({
      told: number.description('How many people and groups were told.'),
      discussions: list(shape({ id: text, assetId: text, path: text })),
      notTold: list(text).description('Names of those who may see nothing of it.'),
    }),
    answers:
      'One discussion of the asset that mentions them; those who may not see it are told on the nearest concerned asset that they may see. It waits on the worklist of each.',
  }),
};
