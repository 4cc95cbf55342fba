import {
  endpoint,
  flag,
  idParam,
  Joi,
  list,
  nullable,
  number,
  type Of,
  shape,
  text,
  withDefault,
} from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';

/** A statement of which lineage could not, or not wholly, be told. */
export const UnreadStatement = shape({
  asset: shape({ id: text, kind: assetKind, path: text }).description(
    'Where it stands: a view, a function, a report …',
  ),
  line: nullable(number).description('In the definition; null: the whole of it is meant.'),
  statement: nullable(text).description('The first 200 characters.'),
  reason: text,
  lost: flag.description('What it does is not known at all; else something of it is not.'),
});
export type UnreadStatement = Of<typeof UnreadStatement>;

export const StatementsAnswer = shape({
  flows: number.description('Views, functions, procedures, rules, loads and reports that tell of lineage.'),
  statements: number.description('Statements in them.'),
  lost: number.description('Of these, statements of which it is not known what they do.'),
  partly: number.description('Remarks on statements that were read and left something open.'),
  items: list(UnreadStatement),
  total: number,
});
export type StatementsAnswer = Of<typeof StatementsAnswer>;

export const statementEndpoints = {
  statements: endpoint({
    id: 'sourceStatements',
    method: 'get',
    path: '/sources/:id/statements',
    area: 'lineage',
    summary: 'How much of what a source runs is understood, and the statements that are not',
    may: 'signed in',
    params: idParam,
    query: shape({
      lost: withDefault(Joi.boolean(), false).description('Only those of which nothing is known.'),
      offset: withDefault(Joi.number().integer().min(0).max(1_000_000), 0),
      limit: withDefault(Joi.number().integer().min(1).max(200), 50),
    }),
    answer: StatementsAnswer,
    answers: 'The shares, and a page of the statements: lost ones first, then by where they stand.',
  }),
};
