import { FileAnswer } from '../curation/index.ts';
import {
  endpoint,
  extended,
  flag,
  id,
  Joi,
  list,
  moment,
  type Of,
  oneOf,
  optional,
  role,
  shape,
  text,
  whole,
} from '../http/index.ts';
import { policiesTold, rightThere } from './lists.ts';

const period = {
  from: moment.description('Not before what is known begins.'),
  to: moment.description('After `from`; not later than now.'),
};
const about = { asset: optional(id), class: optional(Joi.string().max(80)) };

/** What somebody could read of a table while nothing of it changed. */
export const ReportRow = shape({
  personId: text,
  person: text,
  tableId: text,
  table: text,
  source: text,
  from: moment,
  to: moment,
  plain: list(text).description('Columns that they could read as they are, by the policies.'),
  masked: list(text).description('Columns that they could read masked.'),
  preview: list(text).description('Columns of which they could only be shown a few rows.'),
  limited: flag.description('Whether rows of it were kept from them.'),
  policies: policiesTold,
  atSource: list(rightThere).description(
    'By which rights at the source itself they could read it, whatever the policies said.',
  ),
});
export type ReportRow = Of<typeof ReportRow>;

export const ReportAnswer = shape({
  about: text.description('Path of the asset, or the name of the class.'),
  from: moment,
  to: moment,
  knownFrom: moment.description('From when on it is known who could read what.'),
  madeAt: moment,
  madeBy: text,
  looked: whole.description(
    'At how many moments something of it, of its policies or of its readers changed, with the first.',
  ),
  tables: whole.description('That could be asked about, at some time.'),
  people: whole.description('Who could read something of it, at some time.'),
  rows: list(ReportRow),
  logins: list(
    extended(rightThere, { source: text, program: flag, table: text, tableId: text, from: moment, to: moment }),
  ).description('Logins at the source of which nobody said who came in as them, or that were a program’s.'),
  digest: text.description('Of rows and logins: the same report made again has the same.'),
});
export type ReportAnswer = Of<typeof ReportAnswer>;

const WHAT =
  'Rebuilt from what is kept of policies, people, classes and rights, for each moment at which something changed. As within the hours of policies, and as for who stated their purposes. What filters of policies found is noted about once a minute; rights at sources are known as scans found them.';

export const reportEndpoints = {
  knownFrom: endpoint({
    id: 'accessKnownFrom',
    method: 'get',
    path: '/access/known-from',
    area: 'access',
    summary: 'From when on it is known who could read what',
    may: 'signed in',
    answer: shape({ at: moment }),
    answers: 'The moment at which Idrel began to keep it.',
  }),
  report: endpoint({
    id: 'accessReport',
    method: 'get',
    path: '/access/report',
    area: 'access',
    summary: 'Who could read something in a period',
    may: role('policy administrator', 'any domain'),
    query: shape({ ...about, ...period }).xor('asset', 'class'),
    heavy: true,
    problems: ['not-found'],
    answer: ReportAnswer,
    answers: `People with what they could read of an asset and what lies in it, or of what carried a class, from when to when and by what; as far as you administer its policies. ${WHAT}`,
  }),
  reportFile: endpoint({
    id: 'accessReportFile',
    method: 'get',
    path: '/access/report/file',
    area: 'access',
    summary: 'Who could read something in a period, as a file',
    may: role('policy administrator', 'any domain'),
    query: shape({ ...about, ...period, format: oneOf(['csv', 'xlsx']) }).xor('asset', 'class'),
    heavy: true,
    problems: ['not-found'],
    answer: FileAnswer,
    answers: 'A row for each person, column and time, and one for each right at a source.',
  }),
};
