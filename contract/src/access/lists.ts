import { NATIVE_HOW } from '@idrel/core/access';
import {
  endpoint,
  extended,
  flag,
  id,
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
  whole,
  withDefault,
} from '../http/index.ts';
import { assetKind } from '../things/assetKind.ts';
import { asOf, howFar } from './shapes.ts';

const access = oneOf(['yes', 'partly', 'no']);
export const policiesTold = list(shape({ id: nullable(text), name: text })).description(
  'Policies that open it, and that protect or limit what is opened. An id is null where you may not see the policy.',
);
/** By which right at the source itself it is read, whatever the policies say. */
export const rightThere = shape({ login: text, how: oneOf(NATIVE_HOW), holder: text, through: nullable(text) });
const atSource = extended(rightThere, { tables: number });

export const ReadersAnswer = shape({
  tables: whole,
  columns: whole,
  people: list(
    shape({
      personId: text,
      person: text,
      access: access.description('By the policies, of all of it.'),
      tables: number.description('Tables of which they read something by the policies.'),
      plain: number.description('Columns that they read as they are.'),
      masked: number,
      preview: number.description('Columns of which they are only shown a few rows.'),
      limited: flag.description('Whether rows of some of it are kept from them.'),
      policies: policiesTold,
      sees: nullable(flag).description(
        'Whether they have a role in the domain of the source: without one nothing of it is there for them, whatever policies open. Null as of a moment that has passed.',
      ),
      atSource: list(atSource),
    }),
  ).description('Those who read something of it, by policies or at the source; at most 2000.'),
  total: whole,
  logins: list(extended(atSource, { source: text, sourceId: text, program: flag })).description(
    'Logins at the source that read something of it, and of which nobody said who comes in as them, or that are a program’s.',
  ),
});
export type ReadersAnswer = Of<typeof ReadersAnswer>;

export const ReadableAnswer = shape({
  tables: list(
    shape({
      tableId: text,
      table: text,
      source: text,
      access,
      columns: number,
      plain: number,
      masked: number,
      preview: number,
      sensitive: number.description('Of those read as they are, columns of level 3 and above.'),
      limited: flag,
      policies: policiesTold,
      atSource: list(atSource),
    }),
  ).description('At most 2000, the most sensitive first.'),
  total: whole,
  plain: whole,
  masked: whole,
  sensitive: whole,
});
export type ReadableAnswer = Of<typeof ReadableAnswer>;

/** So many days at most are asked about. */
const days = optional(Joi.number().integer().min(1).max(3650));
/** A right that a policy gives: somebody for whom it is, of those it names. */
export const RightsAnswer = shape({
  items: list(
    shape({
      policyId: text,
      policy: text,
      requestId: nullable(text),
      shareId: nullable(text),
      subject: shape({ kind: oneOf(['person', 'group', 'everyone']), id: nullable(text), name: text }),
      assets: list(shape({ id: text, kind: assetKind, path: text })).description(
        'The first of those that it names, as far as you may see them; none: whatever a filter or a class finds.',
      ),
      assetCount: whole,
      opens: howFar,
      givenBy: nullable(text).description('Who gave it on.'),
      until: nullable(moment),
      lastUsed: nullable(moment).description(
        'When one of those whom it is for last asked for some of it through the gateway, as far as that is kept.',
      ),
    }),
  ),
  total: whole,
});
export type RightsAnswer = Of<typeof RightsAnswer>;

const COUNTED = 'Counted as within the hours of policies, and as for who states their purposes.';

export const listEndpoints = {
  rights: endpoint({
    id: 'accessRights',
    method: 'get',
    path: '/access/rights',
    area: 'access',
    summary: 'Rights that policies give, with their end and their last use',
    may: role('policy administrator', 'any domain'),
    query: shape({
      unusedFor: days.description('Only those that nobody has used for so many days.'),
      endingWithin: days.description('Only those that end within so many days.'),
      offset: withDefault(Joi.number().integer().min(0).max(1_000_000), 0),
      limit: withDefault(Joi.number().integer().min(1).max(200), 100),
    }),
    answer: RightsAnswer,
    answers:
      'One for each of whom a policy that allows is for, of policies in force in the domains whose policies you administer; also those of requests and shares.',
  }),
  readers: endpoint({
    id: 'readersOfAsset',
    method: 'get',
    path: '/access/readers',
    area: 'access',
    summary: 'All who can read an asset',
    may: role('policy administrator', 'its domain'),
    query: shape({ asset: id, at: asOf }),
    heavy: true,
    problems: ['not-found'],
    answer: ReadersAnswer,
    answers: `People with what they read of it, by which policies, and by which rights at its source; of what lies in it, as far as you administer its policies. ${COUNTED}`,
  }),
  readable: endpoint({
    id: 'readableByPerson',
    method: 'get',
    path: '/access/readable',
    area: 'access',
    summary: 'All that a person can read',
    may: { words: 'that person; policy administrator in any domain' },
    query: shape({ person: id, at: asOf }),
    heavy: true,
    problems: ['not-found'],
    answer: ReadableAnswer,
    answers: `Tables in domains whose policies you administer (of yourself: those that you may see), with what the person reads of each, by which policies and rights. ${COUNTED}`,
  }),
};
