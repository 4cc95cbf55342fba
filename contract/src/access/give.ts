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
  withDefault,
} from '../http/index.ts';
import { opens } from './shapes.ts';

const ids = withDefault(list(id).max(200).unique(), []);

/** What somebody gives on of a table or file that they may pass on. */
export const GiveBody = shape({
  personIds: ids,
  groupIds: ids,
  columns: withDefault(nullable(list(Joi.string().max(63)).min(1).max(1600).unique()), null).description(
    'Null for all that you may pass on, also later.',
  ),
  opens: withDefault(opens, 'read'),
  passesOn: withDefault(Joi.boolean(), false).description('Whether they may give it on in turn.'),
  until: withDefault(nullable(moment), null).description('The moment at which it ends.'),
});
export type GiveBody = Of<typeof GiveBody>;

/** What somebody gave on. */
export const Given = shape({
  policyId: text,
  version: number,
  to: list(shape({ kind: oneOf(['person', 'group']), id: text, name: text })),
  columns: nullable(list(text)).description('Null for all that you may pass on.'),
  opens,
  passesOn: flag,
  until: nullable(moment),
  at: moment.description('When it was given.'),
  holds: flag.description('Whether you may still pass on something of it: without that it opens nothing.'),
});
export type Given = Of<typeof Given>;

export const GivenAnswer = shape({
  columns: list(
    shape({
      name: text,
      masked: flag.description('Whether they would read it masked, as you do.'),
      preview: flag.description('Whether a few rows of it may be shown, and no more.'),
    }),
  ).description('Columns that you may pass on; none: nothing of it.'),
  limited: flag.description('Whether rows of it are kept from you, and so from whoever you give it to.'),
  given: list(Given).description('What you gave on of it that has not ended.'),
});
export type GivenAnswer = Of<typeof GivenAnswer>;

const may = 'signed in' as const;

export const giveEndpoints = {
  given: endpoint({
    id: 'givenOn',
    method: 'get',
    path: '/assets/:id/given',
    area: 'access',
    summary: 'What you may pass on of an asset, and what you gave on of it',
    may,
    params: idParam,
    answer: GivenAnswer,
    answers: 'Of a table, view or file: what policies let you pass on, and to whom you did.',
  }),
  give: endpoint({
    id: 'giveOn',
    method: 'post',
    path: '/assets/:id/given',
    area: 'access',
    summary: 'Give on what you may read',
    may,
    params: idParam,
    body: GiveBody,
    problems: ['name-taken'],
    answer: Given,
    answers:
      'What was given: it opens what you may pass on yourself, under your masks and in your rows, and nothing when you may no longer.',
  }),
  takeGiven: endpoint({
    id: 'takeGiven',
    method: 'delete',
    path: '/given/:id',
    area: 'access',
    summary: 'Take back what you gave on',
    may,
    params: idParam,
    answers: 'Nothing.',
  }),
};
