import { FILTER_KEYS, type FilterKey, NOTICE_KINDS, SORTS, STANDINGS } from '@idrel/core/catalog';
import { ASKED_HOW } from '@idrel/core/lineage';
import type { ColumnProfile } from '@idrel/core/scanning';
import {
  endpoint,
  extended,
  flag,
  free,
  id,
  idParam,
  Joi,
  like,
  list,
  moment,
  nullable,
  number,
  type Of,
  oneOf,
  optional,
  page,
  shape,
  text,
  tuple,
  whole,
  withDefault,
} from '../http/index.ts';
import { PersonBrief } from '../people/index.ts';
import { assetKind } from '../things/assetKind.ts';

export * from './addresses.ts';
export * from './searches.ts';

/** What a notice says wherever its asset is shown. */
export const NoticeBrief = shape({ kind: oneOf(NOTICE_KINDS), text });
export type NoticeBrief = Of<typeof NoticeBrief>;

export const AssetRow = shape({
  id: text,
  kind: assetKind,
  name: text,
  path: text,
  parentId: nullable(text),
  sourceId: text,
  source: text,
  domain: text,
  description: nullable(text),
  comment: nullable(text),
  standing: oneOf(STANDINGS),
  level: nullable(number),
  priority: number.description(
    '0 ordinary, 1 important, 2 critical: its own, or what it inherits, whichever is higher.',
  ),
  owners: list(PersonBrief),
  classes: list(text),
  terms: list(shape({ id: text, name: text })),
  tags: list(shape({ id: text, name: text, value: text })),
  notices: list(NoticeBrief).description('Those that hold today, the gravest first.'),
  type: nullable(text),
  rows: nullable(number),
  bytes: nullable(number).description('Room that it takes, as far as its source tells.'),
  uses: number.description('How often it was asked for, as far as its source tells.'),
  children: number,
  gone: flag,
  version: number,
});
export type AssetRow = Of<typeof AssetRow>;
export const AssetAnswer = extended(AssetRow, {
  inherited: nullable(
    shape({ owners: list(PersonBrief), from: shape({ kind: text, id: text, name: text }) }),
  ).description('Who answers for it as long as it has no owner of its own: by what it lies in, or by its domain.'),
  stewards: list(PersonBrief),
  custodians: list(PersonBrief),
  experts: list(PersonBrief).description('Who say of themselves that they know it.'),
  domainId: text,
  ownDomain: flag.description('Whether it lies in a domain that was chosen for it, not that of what holds it.'),
  sourceKind: text,
  place: text.description(
    'Its readable address: it leads here as long as nothing else is called so; the address by id always does.',
  ),
  sqlName: nullable(text).description('What it is called in SQL; null where its source is not asked in SQL.'),
  native: free(),
  use: nullable(
    shape({ calls: number, roles: number, statements: number, movedAt: moment, seenAt: moment }),
  ).description(
    'How often it was asked for, as its source counts and through the gateway; null when nothing is known of that.',
  ),
  ofType: nullable(shape({ id: text, name: text, permits: nullable(list(text)) })).description(
    'Of a column: the type that somebody made and it has, or has an array of, where it is an asset itself. `permits`: the values of an enumeration.',
  ),
  priorityFacts: shape({
    stated: nullable(number).description('What a person said of it; null: nobody did.'),
    reason: nullable(text),
    own: number.description('What was stated, else what rules find.'),
    rule: nullable(shape({ id: text, name: text })).description('The rule that finds it.'),
    inherited: number.description('The highest of what is made from it.'),
    from: nullable(shape({ id: text, kind: assetKind, path: text })).description(
      'The nearest that has it itself; null: there is none, or you may not see it.',
    ),
    distance: nullable(number),
  }),
  arrivedTags: list(
    shape({
      id: text,
      name: text,
      value: text,
      from: nullable(shape({ id: text, path: text })).description(
        'The nearest asset that was given it; null where you may not see it.',
      ),
      distance: number.description('How many steps away that is.'),
      refused: flag.description('It would come, but somebody refused it here.'),
    }),
  ).description('Tags that come to it along lineage.'),
  levelFound: nullable(number),
  levelSet: nullable(number),
  levelReason: nullable(text),
  ancestors: list(
    shape({ id: text, kind: assetKind, name: text, seen: flag.description('Whether it is there for you.') }),
  ),
  firstSeen: moment,
  lastSeen: moment,
  goneAt: nullable(moment),
  mayEdit: flag,
  mayCertify: flag,
  byPolicy: flag.description('Whether you see it by a policy alone, without a role in its domain.'),
});
export type AssetAnswer = Of<typeof AssetAnswer>;
const joinedTable = shape({
  id: nullable(text).description('Null: it is not in the catalog, or not to be seen.'),
  kind: assetKind,
  path: text,
  columns: list(
    shape({
      mine: nullable(text).description('A column of this table; null: the source names none.'),
      theirs: nullable(text),
    }),
  ),
});
/** The key of a table, and the tables that foreign keys join it to, as its source declares them. */
export const AssetKeys = shape({
  key: list(text),
  refersTo: list(joinedTable).description('At most 40.'),
  refersToMore: flag,
  referredBy: list(joinedTable).description('At most 40 that you may see.'),
  referredByMore: flag,
});
export type AssetKeys = Of<typeof AssetKeys>;
const askedHow = list(oneOf(ASKED_HOW));
const sideBySide = shape({
  id: text,
  kind: assetKind,
  path: text,
  calls: number,
  mine: list(text).description('Columns of this one by which they are joined, where the statements join by some.'),
  theirs: list(text),
});
/** A statement that asks for an asset. */
export const AskedQuery = shape({
  id: text,
  text: text.description('Without the values in it.'),
  calls: number,
  how: askedHow.description('What it does with this asset.'),
  askers: list(text).description(
    'Up to five, the most frequent first. People are named to those who may edit the asset.',
  ),
  movedAt: moment,
});
export type AskedQuery = Of<typeof AskedQuery>;
/** Who asks for an asset, with which statements, and what is asked for beside it. */
export const AssetUse = shape({
  askers: list(
    shape({
      role: nullable(text).description('A role of the source; else a person, through the gateway.'),
      person: nullable(PersonBrief),
      calls: number,
      writes: number,
      movedAt: moment,
    }),
  ).description('At most 20, the most frequent first. People are named to those who may edit the asset.'),
  people: number.description('How many people asked through the gateway, named or not.'),
  columns: list(shape({ id: text, name: text, calls: number, how: askedHow })).description(
    'At most 12, the most asked for first.',
  ),
  together: list(sideBySide).description('At most 12 that you may see, asked for in the same statements.'),
  queries: page(AskedQuery),
  notShown: number.description('Statements that name something you may not see, or whose text is not kept.'),
});
export type AssetUse = Of<typeof AssetUse>;
const counted = list(tuple(text, whole));
const columnProfile = like<ColumnProfile>()(
  shape({
    measure: oneOf(['number', 'time', 'text']),
    rows: number,
    whole: flag,
    nulls: number,
    distinct: number,
    length: nullable(shape({ min: number, max: number, mean: number })),
    patterns: counted,
    guarded: flag,
    first: nullable(text),
    last: nullable(text),
    span: nullable(shape({ from: number, to: number, mean: number })),
    quantiles: nullable(list(number)),
    frequent: counted,
    histogram: nullable(list(number)),
  }),
);
export const ProfileAnswer = shape({
  assetId: text,
  name: text,
  at: moment,
  profile: columnProfile,
});
export type ProfileAnswer = Of<typeof ProfileAnswer>;
export type { ColumnProfile };
export const TreeNode = shape({
  id: text,
  type: oneOf(['domain', 'source', 'asset']),
  kind: text,
  name: text,
  count: number,
  filter: text,
  notice: nullable(oneOf(NOTICE_KINDS)).description('The gravest notice that holds today.'),
  hasChildren: flag,
});
export type TreeNode = Of<typeof TreeNode>;
export const Facet = shape({
  key: oneOf(Object.keys(FILTER_KEYS) as FilterKey[]),
  values: list(shape({ value: text, label: text, count: number })),
});
export type Facet = Of<typeof Facet>;

/** A page of assets, and how the words of the filter were read where that is not as they were typed. */
export const AssetsFound = extended(page(AssetRow), {
  readAs: nullable(
    shape({
      filter: text,
      slip: flag,
    }),
  ).description(
    'The filter with other forms of its words, which were looked for too; `slip`: nothing was found as it was typed, and slips of the finger were mended.',
  ),
});

export type AssetsFound = Of<typeof AssetsFound>;

/** Why an asset stands where it does among what was found. */
export const WhyFound = shape({
  text: number,
  name: number,
  share: number,
  kind: number,
  standing: number,
  use: number,
  complete: number,
  own: number,
}).description(
  'Parts that add up to its score: how well the words fit (`text`, at most 1), that its whole name was asked for, how much of its name was, and what its kind, standing, use, description and owner, and lying in one of your domains add or take away.',
);
export type WhyFound = Of<typeof WhyFound>;

const filter = withDefault(Joi.string().allow('').max(2000), '').description(
  'Filter language: words and key:value conditions',
);

export const catalogEndpoints = {
  list: endpoint({
    id: 'assets',
    method: 'get',
    path: '/assets',
    area: 'catalog',
    summary: 'Find assets',
    may: 'signed in',
    query: shape({
      filter,
      under: optional(id).description('Only what lies below this asset'),
      sort: withDefault(oneOf(SORTS), 'relevance'),
      descending: withDefault(Joi.boolean(), false),
      limit: withDefault(Joi.number().integer().min(1).max(200), 100),
      offset: withDefault(Joi.number().integer().min(0).max(1_000_000), 0),
    }),
    answer: AssetsFound,
    asOther: true,
    answers:
      'A page of assets you may see, how many there are, and how the words were read where that is not as they were typed.',
  }),
  facets: endpoint({
    id: 'facets',
    method: 'get',
    path: '/assets/facets',
    area: 'catalog',
    summary: 'Counts by kind, source, domain, class, level, standing',
    may: 'signed in',
    query: shape({ filter, under: optional(id) }),
    answer: list(Facet),
    asOther: true,
    answers: 'Facets over what the filter finds.',
  }),
  why: endpoint({
    id: 'whyFound',
    method: 'get',
    path: '/assets/:id/why',
    area: 'catalog',
    summary: 'Why an asset stands where it does among what words find',
    may: 'signed in',
    params: idParam,
    query: shape({ filter, under: optional(id) }),
    answer: nullable(WhyFound),
    asOther: true,
    answers: 'What its score is made of; null when the filter does not find it, or holds no words.',
  }),
  tree: endpoint({
    id: 'tree',
    method: 'get',
    path: '/tree',
    area: 'catalog',
    summary: 'One step of the tree of domains or sources',
    may: 'signed in',
    query: shape({
      by: withDefault(oneOf(['domain', 'source']), 'domain'),
      parent: optional(id),
      parentType: optional(oneOf(['domain', 'source', 'asset'])),
    }).and('parent', 'parentType'),
    answer: list(TreeNode),
    asOther: true,
    answers: 'The children of a node.',
  }),
  get: endpoint({
    id: 'asset',
    method: 'get',
    path: '/assets/:id',
    area: 'catalog',
    summary: 'One asset',
    may: 'signed in',
    params: idParam,
    answer: AssetAnswer,
    asOther: true,
    answers: 'The asset with what people and scans say.',
  }),
  profiles: endpoint({
    id: 'profiles',
    method: 'get',
    path: '/assets/:id/profiles',
    area: 'catalog',
    summary: 'What the values of a column, or of the columns of a table, are like',
    may: 'signed in',
    params: idParam,
    answer: list(ProfileAnswer),
    asOther: true,
    answers: 'Profiles of the columns that were looked at, in their order. Of guarded columns no value is kept.',
  }),
  children: endpoint({
    id: 'children',
    method: 'get',
    path: '/assets/:id/children',
    area: 'catalog',
    summary: 'Assets directly below, in their own order',
    may: 'signed in',
    params: idParam,
    answer: list(AssetRow),
    asOther: true,
    answers: 'At most 2,000 assets.',
  }),
  columnsOfType: endpoint({
    id: 'columnsOfType',
    method: 'get',
    path: '/assets/:id/columns-of-type',
    area: 'catalog',
    summary: 'Columns that have a type somebody made, or an array of it',
    may: 'signed in',
    params: idParam,
    query: shape({
      limit: withDefault(Joi.number().integer().min(1).max(200), 100),
      offset: withDefault(Joi.number().integer().min(0).max(1_000_000), 0),
    }),
    answer: page(AssetRow),
    asOther: true,
    answers: 'A page of columns you may see, in the order of their names.',
  }),
  assetKeys: endpoint({
    id: 'assetKeys',
    method: 'get',
    path: '/assets/:id/keys',
    area: 'catalog',
    summary: 'The key of a table, what it refers to by foreign keys, and what refers to it',
    may: 'signed in',
    params: idParam,
    answer: AssetKeys,
    asOther: true,
    answers: 'As the source declares them; nothing where it declares none.',
  }),
  assetUse: endpoint({
    id: 'assetUse',
    method: 'get',
    path: '/assets/:id/use',
    area: 'catalog',
    summary: 'Who asks for a table or a column, with which statements, and what is asked for beside it',
    may: 'signed in',
    params: idParam,
    query: shape({
      limit: withDefault(Joi.number().integer().min(1).max(100), 5),
      offset: withDefault(Joi.number().integer().min(0).max(10_000), 0),
    }),
    answer: AssetUse,
    asOther: true,
    answers:
      'Statements without the values in them, the most frequent first; only those all of whose tables you may see.',
  }),
};
