import { CAUSE_KINDS } from '@idrel/core/lineage';
import {
  endpoint,
  id,
  Joi,
  list,
  moment,
  nullable,
  number,
  type Of,
  oneOf,
  shape,
  text,
  withDefault,
} from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';

/** Something upstream that can be behind what is seen. */
export const Cause = shape({
  kind: oneOf(CAUSE_KINDS),
  asset: shape({ id: text, kind: assetKind, path: text, source: text }),
  at: nullable(moment).description('When it happened; null: it holds now.'),
  what: text.description('What happened, in words.'),
  distance: number.description('Steps upstream; 0: in the asset itself.'),
  way: list(text).description('Paths from it down to what is asked about.'),
  likelihood: number.description('From 0 to 1: an order, no probability. By kind, how long ago and how far away.'),
});
export type Cause = Of<typeof Cause>;

export const CausesAnswer = shape({
  asset: shape({ id: text, kind: assetKind, path: text }),
  causes: list(Cause).description('The likeliest first; at most 200.'),
  looked: shape({
    assets: number.description('Assets upstream that were looked at, itself among them.'),
    flows: number,
    hidden: number.description('Upstream, and not yours to see.'),
    more: number.description('Further away than what was looked at.'),
  }),
});
export type CausesAnswer = Of<typeof CausesAnswer>;

export const causeEndpoints = {
  causes: endpoint({
    id: 'causes',
    method: 'get',
    path: '/lineage/causes',
    area: 'lineage',
    summary: 'What can be behind a figure that looks wrong',
    may: 'signed in',
    query: shape({ asset: id, days: withDefault(Joi.number().integer().min(1).max(90), 14) }),
    problems: ['not-found'],
    answer: CausesAnswer,
    answers:
      'What failed, is late, changed, is gone, did not hold or is warned of upstream within so many days, in the order of likelihood.',
  }),
};
