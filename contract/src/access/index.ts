import {
  endpoint,
  extended,
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
  optional,
  picked,
  QUERY_PROBLEMS,
  role,
  shape,
  THREAD_PROBLEMS,
  text,
  whole,
  withDefault,
} from '../http/index.ts';
import { attributeKey } from '../people/index.ts';
import { assetKind } from '../things/assetKind.ts';
import { enforceEndpoints } from './enforce.ts';
import { giveEndpoints } from './give.ts';
import { listEndpoints } from './lists.ts';
import { NativeWayAnswer, nativeEndpoints } from './native.ts';
import { policyFileEndpoints } from './policyFile.ts';
import { ReachAnswer, ReachRow } from './reach.ts';
import { reportEndpoints } from './report.ts';
import { requestEndpoints } from './requests.ts';
import { reviewEndpoints } from './reviews.ts';
import { access, asOf, hours, howFar, least, mask, purpose } from './shapes.ts';
import { shareEndpoints } from './shares.ts';

export * from './enforce.ts';
export * from './give.ts';
export * from './lists.ts';
export * from './native.ts';
export * from './policyFile.ts';
export * from './reach.ts';
export * from './report.ts';
export * from './requests.ts';
export * from './reviews.ts';
export { PURPOSE_LONGEST } from './shapes.ts';
export * from './shares.ts';

const stated = withDefault(nullable(purpose), null).description('What it is read for; noted with what was asked.');

const ids = withDefault(list(id).max(500).unique(), []);
export const PolicyBody = shape({
  name: Joi.string().trim().min(1).max(160),
  effect: oneOf(['allow', 'protect', 'deny']),
  everyone: withDefault(Joi.boolean(), false),
  groupIds: ids,
  personIds: ids,
  exceptGroupIds: ids,
  assetIds: ids,
  classKeys: withDefault(list(Joi.string().max(80)).max(100).unique(), []),
  filter: withDefault(nullable(Joi.string().trim().min(1).max(2000)), null).description(
    'It holds for whatever this finds, now and later, and for everything below it; beside assets or classes: for what of these it finds.',
  ),
  carried: withDefault(Joi.boolean(), false),
  columns: withDefault(nullable(list(Joi.string().max(63)).max(1600).unique()), null),
  columnsBut: withDefault(Joi.boolean(), false).description('All but the columns named, also those added later.'),
  mask: withDefault(nullable(mask), null),
  rows: withDefault(
    nullable(
      shape({
        column: Joi.string().max(63),
        values: withDefault(list(Joi.string().max(200)).max(200), []),
        attribute: withDefault(nullable(attributeKey), null).description(
          'A key of the attributes of people: the reader sees the rows with one of their own values.',
        ),
        through: withDefault(
          nullable(
            shape({
              tableId: id,
              column: Joi.string().max(63).description('Its column with the permitted values.'),
              reader: Joi.string().max(63).description('Its column that names the reader.'),
              by: attributeKey.description('What it names readers by: `email`, or a key of their attributes.'),
            }),
          ),
          null,
        ).description('A table of the same source that says which reader may see which value.'),
        least: optional(least).description(
          'Rows are told only in aggregates, each over at least so many different values of the column.',
        ),
      }),
    ),
    null,
  ).description('One of the four: values, an attribute of the reader, a table of rights, a least number.'),
  until: withDefault(nullable(moment), null).description('The moment at which it ends.'),
  hours: withDefault(nullable(hours), null),
  purposes: withDefault(list(purpose).max(20).unique(), []).description(
    'Of an allow: it holds only for who states one of them when they read; none: for all.',
  ),
  opens: withDefault(howFar, 'read').description(
    'Of an allow: `read` for statements of their own; `preview` only so that a few rows are shown, with nothing in them that is guarded or sealed; `see` only that the listed assets are there, with all that lies in them, and what they mean: for who has no role in their domain. That opens no values.',
  ),
  passesOn: withDefault(Joi.boolean(), false).description(
    'Of an allow: whoever it is for may give on what it opens to them, as it is open to them.',
  ),
  enabled: withDefault(Joi.boolean(), true),
});
export type PolicyBody = Of<typeof PolicyBody>;
export const PolicyAnswer = extended(PolicyBody, {
  id: text,
  version: number,
  assets: list(shape({ id: text, kind: assetKind, path: text })),
  rights: nullable(text).description('The table of rights that limits rows, as it is called.'),
  createdBy: nullable(text),
  requestId: nullable(text).description('The request that it answers.'),
  shareId: nullable(text).description('The share with a partner that it is part of: it is changed and ended there.'),
  givenBy: nullable(text).description(
    'Who gave it on: it opens no more than they may pass on themselves, and is taken back, not changed.',
  ),
  mayEdit: flag,
});
export type PolicyAnswer = Of<typeof PolicyAnswer>;
/** A draft, and a table that is not there yet, made up to see what the draft would do with it. */
export const LaterBody = shape({
  policyId: withDefault(nullable(id), null),
  draft: PolicyBody,
  table: shape({
    parentId: id.description('The schema, database or folder in which it would lie.'),
    name: Joi.string().trim().min(1).max(120),
    tags: withDefault(list(Joi.string().trim().min(1).max(240)).max(50).unique(), []).description(
      'Keys, with a value as `key/value`.',
    ),
    columns: list(
      shape({
        name: Joi.string().trim().min(1).max(63),
        classKeys: withDefault(list(Joi.string().max(80)).max(20).unique(), []),
      }),
    )
      .min(1)
      .max(60),
  }),
});
export type LaterBody = Of<typeof LaterBody>;
export const LaterAnswer = shape({
  people: whole,
  gains: whole.description('Columns that somebody would read, and does not without the draft; for each person.'),
  sensitive: whole.description('Of what would be read as it is the guarded or sealed columns; for each person.'),
  rows: list(
    picked(ReachRow, ['personId', 'person', 'table', 'column', 'level', 'before', 'after', 'beforeMask', 'afterMask']),
  ).description('At most 300.'),
});
export type LaterAnswer = Of<typeof LaterAnswer>;
/** A class that a column lost while a policy rested on it, or what the filter of a policy found and finds no longer: it protects on until somebody with the right over the policies lets it go. */
export const HeldClass = shape({
  assetId: text,
  path: text,
  source: text,
  classKey: nullable(text).description('The class that it lost.'),
  filter: nullable(text).description('The filter that finds it no longer.'),
  since: moment,
  policies: list(shape({ id: text, name: text })),
  mayLetGo: flag,
});
export type HeldClass = Of<typeof HeldClass>;
export const PoliciesChecked = shape({
  idle: list(
    shape({
      policyId: text,
      because: oneOf(['nobody', 'nothing', 'denied', 'not theirs', 'not allowed', 'ended']),
      by: list(text).description('Names of the policies that deny all of it.'),
    }),
  ),
  clashes: list(
    shape({
      policies: list(shape({ id: text, name: text })),
      columns: number.description('How many columns are left empty since the masks tell different things.'),
      example: text,
    }),
  ),
});
export type PoliciesChecked = Of<typeof PoliciesChecked>;
/** A made-up value, and what a mask makes of it. */
export const MaskedExample = shape({
  what: text.description('What the value is: in words, or the key of its class.'),
  type: text,
  value: text,
  shown: nullable(text).description('Null where it is left empty.'),
  instead: nullable(text).description('Why it is left empty though the mask says something else.'),
});
export type MaskedExample = Of<typeof MaskedExample>;
/** By what something is held: by a class that it lost, or by the filter of a policy. */
const HELD_BY = { class: optional(Joi.string().max(80)), policy: optional(id) };
/** What letting a class go would open. */
export const LetGoEffect = shape({
  people: number,
  rows: list(picked(ReachRow, ['personId', 'person', 'table', 'column', 'before', 'after', 'beforeMask', 'afterMask'])),
});
export type LetGoEffect = Of<typeof LetGoEffect>;
export const ColumnExplained = shape({
  name: text,
  access: access,
  mask: nullable(mask),
  instead: nullable(text).description('Why the mask is another one than the policy says.'),
  reasons: list(shape({ policyId: text, policy: text, effect: text })),
});
export type ColumnExplained = Of<typeof ColumnExplained>;
export const TableExplained = shape({
  tableId: text,
  path: text,
  access: oneOf(['yes', 'partly', 'no']),
  columns: list(ColumnExplained),
  purposes: list(text).description('Purposes of which stating one would open more.'),
  rowLimits: list(
    shape({
      column: text,
      values: list(text),
      byRights: flag.description('Whether a table of rights says which values they are.'),
      least: nullable(whole).description(
        'Where rows are told only together: each answer is over at least so many different values of the column.',
      ),
      policy: text,
    }),
  ),
});
export type TableExplained = Of<typeof TableExplained>;
/** What somebody may read of a table by the policies, and what rights at its source give them. */
export const Explained = extended(TableExplained, {
  atSource: list(NativeWayAnswer).description('Ways in which the roles as which they come in read it at the source.'),
});
export type Explained = Of<typeof Explained>;
const Result = shape({ columns: list(text), rows: list(list(nullable(text))), capped: flag, milliseconds: number });
export const TryAnswer = extended(Result, {
  rewritten: text,
  yours: nullable(
    extended(Result, {
      whole: flag.description('Whether you read all of the tables as they are: then it is what the source holds.'),
    }),
  ).description('What you get by the same query; null where it is refused to you.'),
  yoursNot: nullable(text).description('Why it is refused to you.'),
  beside: list(
    shape({
      name: text,
      yours: nullable(whole).description('Its place among your columns; null where you do not get it.'),
      theirs: nullable(whole),
      same: flag.description('Whether both get its values as they are: by these, rows are found again.'),
      ofMany: flag.description('Whether it tells of many rows at once.'),
      because: list(text).description('Policies by which they get it otherwise, or not.'),
    }),
  ).description('The columns of both results.'),
  pairs: list(list(nullable(whole)).length(2)).description(
    'Rows of your result and of theirs that are the same one, by their places; null where the other side has none. Of the rows that are shown.',
  ),
  tables: list(TableExplained),
  notes: list(text).description('Notices that hold on the tables that were read, and on what these lie in.'),
});
export type TryAnswer = Of<typeof TryAnswer>;

/** A few rows of a table, as the one who asks may read them. */
export const RowsAnswer = shape({
  columns: list(text).description('Names of the columns shown, in the order of the values.'),
  rows: list(list(nullable(text))),
  more: number.description('How many columns more there are that could be shown: the first ones are.'),
  table: TableExplained,
  notes: list(text),
  milliseconds: number,
});
export type RowsAnswer = Of<typeof RowsAnswer>;

const sql = Joi.string().max(100_000);

export const accessEndpoints = {
  list: endpoint({
    id: 'policies',
    method: 'get',
    path: '/policies',
    area: 'access',
    summary: 'All policies',
    may: 'signed in',
    query: shape({ domain: optional(id).description('Only those that name something in it, or in one below it.') }),
    answer: list(PolicyAnswer),
    answers: 'Policies, deny first, then protect, then allow.',
  }),
  create: endpoint({
    id: 'createPolicy',
    method: 'post',
    path: '/policies',
    area: 'access',
    summary: 'Make a policy',
    may: { words: 'policy administrator in the domains of its assets; everywhere when it holds by class' },
    body: PolicyBody,
    problems: ['name-taken'],
    answer: PolicyAnswer,
    answers: 'The policy.',
  }),
  change: endpoint({
    id: 'changePolicy',
    method: 'put',
    path: '/policies/:id',
    area: 'access',
    summary: 'Change a policy',
    may: { words: 'as for making one' },
    params: idParam,
    body: PolicyBody,
    versioned: true,
    problems: ['name-taken'],
    answer: PolicyAnswer,
    answers: 'The policy.',
  }),
  remove: endpoint({
    id: 'removePolicy',
    method: 'delete',
    path: '/policies/:id',
    area: 'access',
    summary: 'Remove a policy',
    may: { words: 'as for making one' },
    params: idParam,
    answers: 'Nothing.',
  }),
  reach: endpoint({
    id: 'reach',
    method: 'post',
    path: '/policies/reach',
    area: 'access',
    summary: 'What a draft would change',
    may: role('policy administrator', 'any domain'),
    body: shape({ policyId: withDefault(nullable(id), null), draft: nullable(PolicyBody) }),
    heavy: true,
    answer: ReachAnswer,
    answers: 'Who gains and loses what; nothing is saved.',
  }),
  later: endpoint({
    id: 'reachLater',
    method: 'post',
    path: '/policies/later',
    area: 'access',
    summary: 'What a draft would do with a table that is not there yet',
    may: role('policy administrator', 'any domain'),
    body: LaterBody,
    problems: ['not-found'],
    heavy: true,
    answer: LaterAnswer,
    answers: 'Who would read it otherwise than without the draft; nothing is saved.',
  }),
  maskSample: endpoint({
    id: 'maskSample',
    method: 'post',
    path: '/policies/mask-sample',
    area: 'access',
    summary: 'What a mask does to made-up values',
    may: role('policy administrator', 'any domain'),
    body: shape({ mask, classKeys: withDefault(list(Joi.string().max(80)).max(100).unique(), []) }),
    problems: ['not-found'],
    answer: list(MaskedExample),
    answers:
      'Values that detectors of the classes are tested with, or others where none is named, each with what stands in its place. The digests are made by another key than those that readers get.',
  }),
  checked: endpoint({
    id: 'checkedPolicies',
    method: 'get',
    path: '/policies/checked',
    area: 'access',
    summary: 'Policies that change nothing, and masks that clash',
    may: role('policy administrator', 'any domain'),
    heavy: true,
    answer: PoliciesChecked,
    answers:
      'Computed over all people and what you may see; a policy that may hold for something else is not told of. As if hours were now and purposes stated.',
  }),
  held: endpoint({
    id: 'heldClasses',
    method: 'get',
    path: '/access/held',
    area: 'access',
    summary: 'What is protected on though a class is gone, or a filter finds it no longer',
    may: role('policy administrator', 'any domain'),
    answer: list(HeldClass),
    answers:
      'Assets of the domains that you may see, with the policies that rest on the class, or whose filter found them. At most 500 of each.',
  }),
  letGoEffect: endpoint({
    id: 'letGoEffect',
    method: 'get',
    path: '/access/held/effect',
    area: 'access',
    summary: 'Who would read what if a held class were let go',
    may: role('policy administrator', 'any domain'),
    query: shape({ asset: id, ...HELD_BY }).xor('class', 'policy'),
    problems: ['not-found'],
    answer: LetGoEffect,
    answers: 'Who reads the column, before and after.',
  }),
  letGo: endpoint({
    id: 'letGo',
    method: 'post',
    path: '/access/held/let-go',
    area: 'access',
    summary: 'Let a held class go',
    may: { words: 'as for changing each policy that rests on it' },
    body: shape({ asset: id, ...HELD_BY }).xor('class', 'policy'),
    problems: ['not-found'],
    answers: 'Nothing. The column is then read as the policies say without the class.',
  }),
  explain: endpoint({
    id: 'explain',
    method: 'get',
    path: '/access/explain',
    area: 'access',
    summary: 'What a person may read of an asset, and why',
    may: 'signed in',
    query: shape({ person: id, asset: id, purpose: stated, at: asOf }),
    problems: ['not-found'],
    answer: list(Explained),
    answers: 'Decisions column by column with the policies behind them.',
  }),
  tryIt: endpoint({
    id: 'tryQuery',
    method: 'post',
    path: '/access/try',
    area: 'access',
    summary: 'Run a SELECT as a person',
    may: role('policy administrator', 'its domain'),
    body: shape({ personId: id, sourceId: id, sql, purpose: stated }),
    problems: ['not-found', ...QUERY_PROBLEMS, ...THREAD_PROBLEMS],
    answer: TryAnswer,
    answers:
      'Rows as that person gets them (at most 200), what was refused or masked, and beside it what you get by the same query yourself. Both are noted with what goes through the gateway.',
  }),
  rows: endpoint({
    id: 'sampleRows',
    method: 'get',
    path: '/assets/:id/rows',
    area: 'access',
    summary: 'A few rows of a table, or values of a column, as you may read them',
    may: 'signed in',
    params: idParam,
    query: shape({ limit: withDefault(Joi.number().integer().min(1).max(100), 20), purpose: stated }),
    problems: [...QUERY_PROBLEMS, ...THREAD_PROBLEMS],
    answer: RowsAnswer,
    asOther: false,
    answers:
      'Rows read just now, by the policies that hold for you, and kept nowhere: of PostgreSQL through the gateway, elsewhere the first ones that the source gives. At most 60 columns. Of what you may not read at all no row, but why.',
  }),
  image: endpoint({
    id: 'assetImage',
    method: 'get',
    path: '/assets/:id/image',
    area: 'access',
    summary: 'An image of a report or a dashboard, as its source last drew it',
    may: 'signed in',
    params: idParam,
    stream: 'bytes',
    problems: QUERY_PROBLEMS,
    asOther: false,
    answers:
      'The bytes, asked of the source just now and kept nowhere: PNG, JPEG, WebP, GIF or SVG, at most 4 MB. An image cannot be hidden in part: it is for who may read all columns behind it as they are.',
  }),
  query: endpoint({
    id: 'query',
    method: 'post',
    path: '/sources/:id/query',
    area: 'access',
    summary: 'Run a SELECT as yourself through the gateway',
    may: 'signed in',
    params: idParam,
    body: shape({ sql, limit: withDefault(Joi.number().integer().min(1).max(1_000_000), 100_000), purpose: stated }),
    stream: 'lines',
    problems: [...QUERY_PROBLEMS, ...THREAD_PROBLEMS],
    answers:
      'Rows as NDJSON: first line the names of the columns, then one array of texts a row, last line {"rows":n,"capped":bool,"because":"rows"|"bytes","notes":["stop on …"]} (notes: notices that hold on the tables, where there are any); an error after the first line stands in a last line {"problem":…}.',
  }),
  ...nativeEndpoints,
  ...shareEndpoints,
  ...giveEndpoints,
  ...listEndpoints,
  ...enforceEndpoints,
  ...reportEndpoints,
  ...policyFileEndpoints,
  ...requestEndpoints,
  ...reviewEndpoints,
};
