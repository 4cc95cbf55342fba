import {
  endpoint,
  extended,
  Joi,
  list,
  number,
  type Of,
  oneOf,
  optional,
  picked,
  shape,
  text,
  withDefault,
} from '../http/index.ts';

/** What is counted of the assets: a share of all, told by a filter, so that each figure opens exactly the assets behind it. */
export const Measure = shape({
  key: text,
  label: text,
  filter: text,
  help: text,
  lack: optional(text).description('How those are said that lack it; absent where not every asset has to have it.'),
});
export type Measure = Of<typeof Measure>;
export const MEASURES: readonly Measure[] = [
  { key: 'owned', label: 'Owned', filter: 'owner:any', help: 'Somebody answers for it.', lack: 'without owner' },
  {
    key: 'described',
    label: 'Described',
    filter: 'described:yes',
    help: 'People wrote a description; the source’s own comment does not count.',
    lack: 'not described',
  },
  {
    key: 'terms',
    label: 'With terms',
    filter: 'term:any',
    help: 'It carries a term of the glossary.',
    lack: 'without a term',
  },
  {
    key: 'classified',
    label: 'Classified',
    filter: 'class:any',
    help: 'It, or one of its columns, carries a data class. Not every asset has to.',
  },
  {
    key: 'levelled',
    label: 'With a level',
    filter: 'level:any',
    help: 'It has a sensitivity level, by its classes or set by hand.',
  },
  {
    key: 'relied',
    label: 'Reviewed or trusted',
    filter: 'standing:reviewed,trusted',
    help: 'Its standing is reviewed or trusted.',
    lack: 'neither reviewed nor trusted',
  },
];

/** Levels as they are counted: each with the filter that finds what has it. */
export const LEVEL_MEASURES: readonly Measure[] = [
  { key: 'none', label: 'none', filter: 'level:none', help: 'No level: no class gives it one, and nobody set it.' },
  ...['open', 'internal', 'guarded', 'sealed'].map((key) => ({
    key,
    label: key,
    filter: `level:${key}`,
    help: `Assets whose level is this one; searches know it as level:${key}.`,
  })),
];

/** How many assets had which level at the end of a day; days on which nothing changed stand as the one before. */
export const LevelDay = shape({ day: text, counts: list(number).description('From the lowest to the highest.') });
export type LevelDay = Of<typeof LevelDay>;
export const COVERAGE_BY = ['domain', 'source', 'kind'] as const;
export type CoverageBy = (typeof COVERAGE_BY)[number];
/** What matters most can be counted, too; how that was on earlier days is not kept. */
export const GOVERNED_BY = [...COVERAGE_BY, 'priority'] as const;
export type GovernedBy = (typeof GOVERNED_BY)[number];

export const CoverageRow = shape({
  name: text,
  depth: number.description('Steps below the top of the tree of domains; 0 elsewhere.'),
  filter: text.description("What opens the row's assets in the catalog."),
  assets: number,
  counts: list(number).description('One count for each measure, in their order.'),
});
export type CoverageRow = Of<typeof CoverageRow>;
export const CoverageAnswer = shape({
  measures: list(Measure),
  all: CoverageRow,
  rows: list(CoverageRow),
  nudges: list(shape({ lack: text, name: text, missing: number, filter: text })).description(
    'Steps that would raise coverage most: assets that lack something, within one row.',
  ),
});
export type CoverageAnswer = Of<typeof CoverageAnswer>;

export const LevelReport = extended(picked(CoverageAnswer, ['measures', 'all', 'rows']), {
  days: list(text).description(
    'From the first day on of which something is known, at most as many days as were asked for; the last is today.',
  ),
  trends: list(list(list(number))).description(
    'One for `all`, then one for each row: what had which level on each of the days.',
  ),
});
export type LevelReport = Of<typeof LevelReport>;

export const coverageEndpoints = {
  levels: endpoint({
    id: 'levelReport',
    method: 'get',
    path: '/coverage/levels',
    area: 'coverage',
    summary: 'Sensitivity levels by domain, source or kind, with their trend',
    may: 'signed in',
    query: shape({
      by: withDefault(oneOf(COVERAGE_BY), 'domain'),
      days: withDefault(Joi.number().integer().min(2).max(730), 90),
    }),
    answer: LevelReport,
    answers:
      'For each row how many assets that you may see have which level, with the filter that finds them; and how many had it on each day.',
  }),
  read: endpoint({
    id: 'coverage',
    method: 'get',
    path: '/coverage',
    area: 'coverage',
    summary: 'How far the catalog is governed',
    may: 'signed in',
    query: shape({ by: withDefault(oneOf(GOVERNED_BY), 'domain') }),
    answer: CoverageAnswer,
    answers:
      'For each domain (with those below it), source, kind or priority that you may see: how many assets, and how many of them are owned, described and so on; each with the filter that finds them.',
  }),
};
