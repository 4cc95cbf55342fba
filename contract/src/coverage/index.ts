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
  role,
  shape,
  text,
  withDefault,
} from '../http/index.ts';
import { MEASURES, Measure } from './measures.ts';

export { LEVEL_MEASURES, MEASURES, Measure, UNUSED, USED_DAYS } from './measures.ts';

/** How many assets had which level at the end of a day; days on which nothing changed stand as the one before. */
export const LevelDay = shape({ day: text, counts: list(number).description('From the lowest to the highest.') });
export type LevelDay = Of<typeof LevelDay>;
export const COVERAGE_BY = ['domain', 'source', 'kind'] as const;
export type CoverageBy = (typeof COVERAGE_BY)[number];
/** By what figures are kept day by day. */
export const KEPT_BY = [...COVERAGE_BY, 'level', 'owner'] as const;
export type KeptBy = (typeof KEPT_BY)[number];
/** What matters most can be counted, too; how that was on earlier days is not kept. */
export const GOVERNED_BY = [...KEPT_BY, 'priority'] as const;
export type GovernedBy = (typeof GOVERNED_BY)[number];
/** So many rows are answered, those with the most assets; only owners can be more. */
export const MOST_ROWS = 500;

export const CoverageRow = shape({
  key: text.description('The id of the domain, source or owner, or a word; empty for all, and for what has no owner.'),
  name: text,
  depth: number.description('Steps below the top of the tree of domains; 0 elsewhere.'),
  filter: text.description("What opens the row's assets in the catalog."),
  assets: number,
  counts: list(number).description('One count for each measure, in their order.'),
  bytes: number.description('Room that what holds rows of it takes, as far as its source tells.'),
  unusedBytes: number.description('Of that what nobody asked for.'),
});
export type CoverageRow = Of<typeof CoverageRow>;
export const CoverageAnswer = shape({
  measures: list(Measure),
  unused: text.description('The filter of what nobody asked for.'),
  all: CoverageRow,
  rows: list(CoverageRow),
  more: number.description(`Rows beyond the first ${MOST_ROWS}.`),
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

const MEASURE_KEYS = MEASURES.map(({ key }) => key);
/** What a course can be asked of: a measure, or the room that is taken. */
export const COURSES = [...MEASURE_KEYS, 'bytes', 'unusedBytes'];
const day = Joi.string().pattern(/^\d{4}-\d{2}-\d{2}$/, 'a day');

export const CourseRow = shape({
  key: text,
  name: text,
  depth: number,
  filter: text,
  assets: list(number).description('How many there were on each day.'),
  met: list(number).description('Of these those that met the measure; of room the bytes.'),
});
export type CourseRow = Of<typeof CourseRow>;
export const CourseAnswer = shape({
  measures: list(Measure),
  measure: text,
  days: list(text).description(
    'In their order, at most 92: of longer stretches evenly apart. The last is the last on which figures were kept.',
  ),
  at: nullable(moment).description('When figures were kept last; null: never.'),
  assets: list(number).description('How many assets there were in all on each day.'),
  all: list(shape({ key: text, met: list(number) })).description('Of each measure, and of room, all together.'),
  rows: list(CourseRow),
});
export type CourseAnswer = Of<typeof CourseAnswer>;

export const TargetBody = shape({
  domainId: id,
  measure: oneOf(MEASURE_KEYS),
  share: Joi.number().min(0.01).max(1).description('Of the domain’s assets, with those below it.'),
  byDay: day.description('The day by which it is to be so.'),
  since: optional(day).description('The day on which it began, at the latest today; left out: today, or as it was.'),
});
export type TargetBody = Of<typeof TargetBody>;
export const Target = extended(TargetBody, {
  id: text,
  domain: text,
  since: text,
  madeBy: nullable(text),
  state: oneOf(['met', 'on course', 'behind', 'missed']),
  now: number,
  due: number.description('Where the straight way from its beginning would be today.'),
  assets: number.description('Assets of the domain, of those that you may see.'),
  pace: nullable(number).description('By how much the share grew in 30 days.'),
  reachedOn: nullable(text).description('The day on which it is reached at this pace; null where it is not.'),
  filter: text.description('What opens the assets that lack it.'),
  mayChange: flag,
  version: number,
});
export type Target = Of<typeof Target>;

export const RoomPrice = shape({
  price: nullable(Joi.number().min(0).max(1e6)).description('For a gigabyte (10⁹ bytes) a month; null: not said.'),
  currency: Joi.string()
    .pattern(/^[A-Z]{3}$/, 'ISO 4217')
    .description('ISO 4217.'),
});
export type RoomPrice = Of<typeof RoomPrice>;

export const UsedAsset = shape({
  id: text,
  kind: text,
  path: text,
  source: text,
  uses: number.description('How often it was asked for, as far as its source tells.'),
  askedAt: nullable(moment),
  askedBy: number.description('Roles of the source, and people through the gateway.'),
  statements: number,
  bytes: nullable(number),
  since: moment,
  lacks: list(text).description('What it lacks that measures ask for.'),
});
export type UsedAsset = Of<typeof UsedAsset>;

export const UseAnswer = shape({
  popular: list(UsedAsset).description('What is asked for most.'),
  columns: list(UsedAsset).description('Columns that are asked for most.'),
  nudges: list(extended(UsedAsset, { gain: number })).description(
    'What would gain most: how often it was asked for, times what it lacks.',
  ),
  unused: list(UsedAsset).description('What takes the most room and nobody asked for.'),
  totals: shape({
    used: number,
    unused: number,
    untold: number.description('Of sources that do not tell what is asked of them.'),
  }),
  filters: shape({ used: text, unused: text, untold: text }),
});
export type UseAnswer = Of<typeof UseAnswer>;

export const WeekAnswer = shape({
  from: text,
  to: text,
  done: list(shape({ action: text, times: number, before: number })).description(
    'What you did in these seven days, and how often in the seven before.',
  ),
  days: list(shape({ day: text, times: number })).description('Your changes, day by day, over two weeks.'),
  assets: number.description('Assets that you changed.'),
  waiting: list(shape({ kind: text, items: number })).description('What waits on your worklist now.'),
  moved: list(
    shape({
      key: text,
      domain: text,
      measure: text,
      filter: text,
      before: number,
      now: number,
      assetsBefore: number,
      assets: number,
    }),
  ).description('Figures of the domains that you look after that moved in these days.'),
});
export type WeekAnswer = Of<typeof WeekAnswer>;

const steward = role('steward', 'its domain');
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
    query: shape({
      by: withDefault(oneOf(GOVERNED_BY), 'domain'),
      domain: optional(id).description('Only of this domain and those below it.'),
    }),
    problems: ['not-found'],
    answer: CoverageAnswer,
    answers:
      'For each domain (with those below it), source, kind, level, owner or priority that you may see: how many assets, and how many of them are owned, described and so on, and how much room they take; each with the filter that finds them.',
  }),
  course: endpoint({
    id: 'coverageCourse',
    method: 'get',
    path: '/coverage/course',
    area: 'coverage',
    summary: 'How coverage came to be, day by day',
    may: 'signed in',
    query: shape({
      by: withDefault(oneOf(KEPT_BY), 'domain'),
      measure: withDefault(oneOf(COURSES), 'owned'),
      days: withDefault(Joi.number().integer().min(2).max(3650), 90),
      domain: optional(id).description('Only of this domain and those below it.'),
    }),
    problems: ['not-found'],
    answer: CourseAnswer,
    answers:
      'Figures as they were kept, of the domains in which you may read: one measure row by row, all measures of everything together.',
  }),
  keep: endpoint({
    id: 'keepCoverage',
    method: 'post',
    path: '/coverage/days',
    area: 'coverage',
    summary: 'Keep the figures of today now',
    may: role('administrator', 'any domain', 'everywhere'),
    answer: shape({ day: text, at: moment }),
    answers: 'The day. It is done by itself each hour: the last of a day stands.',
  }),
  targets: endpoint({
    id: 'coverageTargets',
    method: 'get',
    path: '/coverage/targets',
    area: 'coverage',
    summary: 'Targets of domains, and how they stand',
    may: 'signed in',
    answer: shape({
      measures: list(Measure),
      targets: list(Target),
      mayAdd: list(shape({ id: text, name: text })).description('Domains of which you look after the quality.'),
    }),
    answers: 'Those of domains in which you may read, the soonest first.',
  }),
  addTarget: endpoint({
    id: 'addCoverageTarget',
    method: 'post',
    path: '/coverage/targets',
    area: 'coverage',
    summary: 'Set a target for a domain',
    may: steward,
    body: TargetBody,
    problems: ['name-taken', 'not-found'],
    answer: Target,
    answers: 'The target. It begins today; a domain has one for each measure.',
  }),
  changeTarget: endpoint({
    id: 'changeCoverageTarget',
    method: 'put',
    path: '/coverage/targets/:id',
    area: 'coverage',
    summary: 'Change a target',
    may: steward,
    params: idParam,
    body: TargetBody,
    versioned: true,
    problems: ['name-taken'],
    answer: Target,
    answers: 'The target as it is now. When it began stays.',
  }),
  removeTarget: endpoint({
    id: 'removeCoverageTarget',
    method: 'delete',
    path: '/coverage/targets/:id',
    area: 'coverage',
    summary: 'Remove a target',
    may: steward,
    params: idParam,
    answers: 'Nothing.',
  }),
  price: endpoint({
    id: 'roomPrice',
    method: 'get',
    path: '/coverage/price',
    area: 'coverage',
    summary: 'What room costs',
    may: 'signed in',
    answer: extended(RoomPrice, { version: number, mayChange: flag }),
    answers: 'The price of a gigabyte a month, as the organisation reckons.',
  }),
  setPrice: endpoint({
    id: 'setRoomPrice',
    method: 'put',
    path: '/coverage/price',
    area: 'coverage',
    summary: 'Say what room costs',
    may: role('administrator', 'any domain', 'everywhere'),
    body: RoomPrice,
    versioned: true,
    answer: extended(RoomPrice, { version: number, mayChange: flag }),
    answers: 'The price as it is now.',
  }),
  use: endpoint({
    id: 'coverageUse',
    method: 'get',
    path: '/coverage/use',
    area: 'coverage',
    summary: 'What is asked for, what never is, and what would gain most by being governed',
    may: 'signed in',
    query: shape({ domain: optional(id).description('Only of this domain and those below it.') }),
    problems: ['not-found'],
    answer: UseAnswer,
    answers: 'Of the assets that you may see, twenty of each.',
  }),
  week: endpoint({
    id: 'coverageWeek',
    method: 'get',
    path: '/coverage/week',
    area: 'coverage',
    summary: 'Your week',
    may: 'signed in',
    answer: WeekAnswer,
    answers: 'What you did in the last seven days, what waits for you, and which figures of your domains moved.',
  }),
  reports: endpoint({
    id: 'coverageReports',
    method: 'get',
    path: '/coverage/report-reader',
    area: 'coverage',
    summary: 'Whether you are sent the report of each month',
    may: 'signed in',
    answer: shape({ sent: flag, canSend: flag.description('Whether mail is set up here, and you have an address.') }),
    answers: 'Whether it is sent to you.',
  }),
  setReports: endpoint({
    id: 'setCoverageReports',
    method: 'put',
    path: '/coverage/report-reader',
    area: 'coverage',
    summary: 'Have the report of each month sent to you, or no longer',
    may: 'signed in',
    body: shape({ sent: Joi.boolean() }),
    answer: shape({ sent: flag, canSend: flag }),
    answers: 'Whether it is sent to you. It comes on the first days of a month, of what you may see.',
  }),
};
