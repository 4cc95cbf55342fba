import { NATIVE_HOW } from '@idrel/core/access';
import {
  endpoint,
  extended,
  flag,
  id,
  list,
  nullable,
  number,
  type Of,
  oneOf,
  role,
  shape,
  text,
  whole,
} from '../http/index.ts';
import { asOf } from './shapes.ts';

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
      limited: flag.description('Whether rows of some of it are kept from them.'),
      policies: policiesTold,
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

const COUNTED = 'Counted as within the hours of policies, and as for who states their purposes.';

export const listEndpoints = {
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
