import { TRAVEL_KINDS, USUAL_TRAVEL } from '@idrel/core/recognition/carried';
import { CHECKSUMS, type DetectorSpec } from '@idrel/core/recognition/spec';
import {
  either,
  endpoint,
  extended,
  flag,
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
  QUERY_PROBLEMS,
  role,
  shape,
  text,
  withDefault,
} from '../http/index.ts';

const upTo = (most: number) => Joi.string().trim().allow('').max(most);
const key = Joi.string().pattern(/^[a-z0-9][a-z0-9.-]{0,79}$/, 'small letters, digits, hyphens and dots');
const rule = either(
  shape({ kind: oneOf(['pattern']), pattern: Joi.string().max(2000), caseless: Joi.boolean() }),
  shape({
    kind: oneOf(['list']),
    values: list(Joi.string().max(400)).min(1).max(1_000_000),
    match: oneOf(['exact', 'folded', 'close']),
  }),
  shape({
    kind: oneOf(['combination']),
    classKeys: list(Joi.string().max(80)).min(1).max(20).unique(),
    least: Joi.number().integer().min(1).max(20),
  }),
  shape({ kind: oneOf(['range']), of: oneOf(['number', 'date']), from: upTo(40), to: upTo(40) }),
);
const examples = list(Joi.string().min(1).max(400)).max(200);
export const DetectorSpecBody = like<DetectorSpec>()(
  shape({
    value: nullable(rule),
    checksum: oneOf(CHECKSUMS),
    namePattern: upTo(500),
    nameNeeded: Joi.boolean(),
    minShare: Joi.number().min(0.01).max(1),
    minDistinct: Joi.number().integer().min(1).max(100_000),
    accepts: examples,
    rejects: examples,
  }),
);
/** What people write of a data class. */
export const ClassBody = shape({
  label: Joi.string().trim().min(1).max(120),
  theme: Joi.string().max(40),
  level: Joi.number().integer().min(1).max(4),
  meaning: withDefault(upTo(2000), ''),
  legalBasis: withDefault(upTo(2000), ''),
  synonyms: withDefault(list(Joi.string().trim().min(1).max(120)).max(50).unique(), []),
  parentKey: withDefault(nullable(Joi.string().max(80)), null),
  travels: withDefault(list(oneOf(TRAVEL_KINDS)).unique().max(3), [...USUAL_TRAVEL]).description(
    'By which kinds of edges it travels downstream: what else happens to a value keeps it.',
  ),
});
export type ClassBody = Of<typeof ClassBody>;
export const OwnDetectorBody = shape({
  classKey: Joi.string().max(80),
  spec: DetectorSpecBody,
  note: withDefault(upTo(500), ''),
});
export type OwnDetectorBody = Of<typeof OwnDetectorBody>;

/** A data class with what stands behind it. */
export const ClassAnswer = extended(ClassBody, {
  key: text,
  own: flag,
  retired: flag,
  version: number,
  detectors: number,
  columns: nullable(number).description(
    'Columns of yours that carry it, by a finding, by a decision or along lineage; null where they were not to be counted.',
  ),
});
export type ClassAnswer = Of<typeof ClassAnswer>;
/** What carries a class and what depends on it: all that its removal touches. */
export const ClassCarriers = shape({
  columns: number,
  shown: list(shape({ id: text, path: text, source: text, state: text })).description(
    'The first of them that you may see.',
  ),
  detectors: list(text),
  policies: list(shape({ id: text, name: text, alone: flag })),
  routines: list(shape({ id: text, name: text })),
  rules: list(shape({ id: text, name: text, of: oneOf(['levels', 'certainty', 'combination']) })).description(
    'Rules of levels, rules that confirm, and detectors that look for it beside another class.',
  ),
  children: list(text),
});
export type ClassCarriers = Of<typeof ClassCarriers>;

/** A class that came to an asset along lineage, or that would come or go by another rule. */
const arrival = {
  assetId: text,
  path: text,
  source: text,
  from: nullable(shape({ id: text, path: text })).description(
    'The nearest asset that carries it itself; null where you may not see it.',
  ),
  distance: number.description('How many steps away that is.'),
};
export const Arrival = shape({
  ...arrival,
  classKey: text,
  refused: flag.description('It would come, but somebody refused it here.'),
  mayDecide: flag,
});
export type Arrival = Of<typeof Arrival>;
/** What it would change if a class or a tag travelled by other kinds of edges. */
export const TravelPreview = shape({
  comes: number,
  goes: number,
  shown: list(
    shape({ ...arrival, value: text.description('Of a tag: with which value.'), change: oneOf(['comes', 'goes']) }),
  ).description('The first 200 that you may see.'),
});
export type TravelPreview = Of<typeof TravelPreview>;

export const OwnDetectorAnswer = shape({
  id: text,
  classKey: text,
  label: text,
  version: number,
  off: flag,
  spec: DetectorSpecBody,
  versions: list(
    shape({
      version: number,
      note: text,
      by: nullable(text),
      at: moment,
      spec: DetectorSpecBody,
    }),
  ),
});
export type OwnDetectorAnswer = Of<typeof OwnDetectorAnswer>;

/** A column that a draft would claim, or that would no longer be claimed. */
export const TrialColumn = shape({
  assetId: text,
  classKey: text.description('A combination raises other classes too.'),
  path: text,
  source: text,
  share: number,
  distinct: number,
  confidence: number,
  state: text,
  examples: list(text).description('Masked.'),
});
export type TrialColumn = Of<typeof TrialColumn>;
export const TrialAnswer = shape({
  id: text,
  ended: flag,
  cancelled: flag,
  done: number,
  total: nullable(number).description('Tables and files to look into; null until they are counted.'),
  columns: number,
  gains: list(TrialColumn),
  loses: list(TrialColumn),
  keeps: number,
  problems: list(text),
});
export type TrialAnswer = Of<typeof TrialAnswer>;
/** Columns of an example file, with values. */
export const ExampleColumn = shape({ name: text, values: list(text) });
export type ExampleColumn = Of<typeof ExampleColumn>;
/** What carries a class by detectors that are to be switched off. */
export const SwitchEffect = shape({
  columns: number,
  confirmed: number.description('Those of them that keep the class, since people confirmed it.'),
  alone: list(text).description('Classes that no other detector looks for.'),
  shown: list(shape({ assetId: text, path: text, source: text, classKey: text, state: text })).description(
    'The first of them.',
  ),
});
export type SwitchEffect = Of<typeof SwitchEffect>;
/** What detectors look like outside of Idrel: plain JSON. */
export const DetectorFile = shape({
  kind: oneOf(['idrel detectors']),
  version: oneOf([1]),
  classes: list(extended(ClassBody, { key })).max(1000),
  detectors: list(shape({ id: key, classKey: Joi.string().max(80), spec: DetectorSpecBody })).max(1000),
});
export type DetectorFile = Of<typeof DetectorFile>;
export const ImportAnswer = shape({
  classes: list(shape({ key: text, what: oneOf(['new', 'changed', 'same']) })),
  detectors: list(shape({ id: text, what: oneOf(['new', 'changed', 'same']) })),
});
export type ImportAnswer = Of<typeof ImportAnswer>;

const rights = role('steward', 'any domain');
const ownParam = shape({ id: Joi.string().max(120) });
const keyParam = shape({ key: Joi.string().max(80) });

export const ownEndpoints = {
  classes: endpoint({
    id: 'classes',
    method: 'get',
    path: '/classes',
    area: 'recognition',
    summary: 'Data classes: those that ship with Idrel and your own',
    may: 'signed in',
    query: shape({
      counted: withDefault(Joi.boolean(), false).description(
        'With how many columns of yours carry each: that takes a while.',
      ),
    }),
    answer: list(ClassAnswer),
    answers: 'All classes.',
  }),
  arrivals: endpoint({
    id: 'arrivals',
    method: 'get',
    path: '/assets/:id/arrivals',
    area: 'recognition',
    summary: 'Which classes came to an asset along lineage, or to its columns, and from where',
    may: 'signed in',
    params: idParam,
    answer: list(Arrival),
    answers: 'At most 200, in the order of its columns.',
  }),
  previewTravel: endpoint({
    id: 'previewTravel',
    method: 'post',
    path: '/classes/:key/travel-preview',
    area: 'recognition',
    summary: 'To what a class would come, and from what it would go, if it travelled by other kinds of edges',
    may: rights,
    params: keyParam,
    body: shape({ travels: list(oneOf(TRAVEL_KINDS)).unique().max(3) }),
    answer: TravelPreview,
    answers: 'How many assets, and the first of them. Nothing is changed.',
  }),
  addClass: endpoint({
    id: 'addClass',
    method: 'post',
    path: '/classes',
    area: 'recognition',
    summary: 'Make a data class',
    may: rights,
    body: ClassBody,
    problems: ['name-taken'],
    answer: ClassAnswer,
    answers: 'The class.',
  }),
  changeClass: endpoint({
    id: 'changeClass',
    method: 'put',
    path: '/classes/:key',
    area: 'recognition',
    summary: 'Change a data class, also one that ships with Idrel',
    may: rights,
    params: keyParam,
    body: ClassBody,
    versioned: true,
    problems: ['name-taken'],
    answer: ClassAnswer,
    answers: 'The class. Levels follow at once.',
  }),
  carriers: endpoint({
    id: 'classCarriers',
    method: 'get',
    path: '/classes/:key/carriers',
    area: 'recognition',
    summary: 'What carries a class, and what depends on it',
    may: 'signed in',
    params: keyParam,
    answer: ClassCarriers,
    answers: 'Columns, detectors, policies, routines, classes below it.',
  }),
  removeClass: endpoint({
    id: 'removeClass',
    method: 'delete',
    path: '/classes/:key',
    area: 'recognition',
    summary: 'Remove a class of your own, or retire one that ships with Idrel',
    may: { words: 'steward in every domain whose columns carry it' },
    params: keyParam,
    query: shape({ columns: Joi.number().integer().min(0) }),
    problems: ['class-guards', 'class-searched', 'class-in-rule', 'class-in-combination', 'count-changed'],
    answers:
      'Nothing. `columns` must be the number that carry it now. Findings, decisions and detectors go; levels follow. Refused while a policy rests on it alone.',
  }),
  restoreClass: endpoint({
    id: 'restoreClass',
    method: 'post',
    path: '/classes/:key/restored',
    area: 'recognition',
    summary: 'Use a retired class again',
    may: rights,
    params: keyParam,
    problems: ['name-taken', 'not-retired'],
    answer: ClassAnswer,
    answers: 'The class. Its detectors look again in the next runs.',
  }),
  own: endpoint({
    id: 'ownDetector',
    method: 'get',
    path: '/own-detectors/:id',
    area: 'recognition',
    summary: 'A detector of yours with its versions',
    may: 'signed in',
    params: ownParam,
    heavy: true,
    answer: OwnDetectorAnswer,
    answers: 'The detector.',
  }),
  addOwn: endpoint({
    id: 'addOwnDetector',
    method: 'post',
    path: '/own-detectors',
    area: 'recognition',
    summary: 'Make a detector',
    may: rights,
    body: OwnDetectorBody,
    bodyBytes: 64 << 20,
    heavy: true,
    answer: OwnDetectorAnswer,
    answers: 'The detector. Refused when its own examples come out wrong.',
  }),
  changeOwn: endpoint({
    id: 'changeOwnDetector',
    method: 'put',
    path: '/own-detectors/:id',
    area: 'recognition',
    summary: 'Save a new version of a detector',
    may: rights,
    params: ownParam,
    body: OwnDetectorBody,
    bodyBytes: 64 << 20,
    heavy: true,
    versioned: true,
    problems: ['other-class'],
    answer: OwnDetectorAnswer,
    answers: 'The detector. The next runs look with it.',
  }),
  removeOwn: endpoint({
    id: 'removeOwnDetector',
    method: 'delete',
    path: '/own-detectors/:id',
    area: 'recognition',
    summary: 'Remove a detector of yours',
    may: rights,
    params: ownParam,
    answers: 'Nothing. What it found goes with it; what people decided stays.',
  }),
  switchOff: endpoint({
    id: 'switchDetectors',
    method: 'put',
    path: '/detectors-off',
    area: 'recognition',
    summary: 'Switch detectors off for the whole organisation, or on again',
    may: rights,
    body: shape({ ids: list(Joi.string().max(120)).min(1).max(1000).unique(), off: Joi.boolean() }),
    answers: 'Nothing. What they found stays until the next scan of the source.',
  }),
  exported: endpoint({
    id: 'exportDetectors',
    method: 'get',
    path: '/detectors-file',
    area: 'recognition',
    summary: 'Your classes and detectors as JSON',
    may: 'signed in',
    answer: DetectorFile,
    answers: 'A file of the kind that the import takes.',
  }),
  imported: endpoint({
    id: 'importDetectors',
    method: 'post',
    path: '/detectors-file',
    area: 'recognition',
    summary: 'Take classes and detectors from JSON',
    may: rights,
    query: shape({ preview: withDefault(Joi.boolean(), false) }),
    body: DetectorFile,
    bodyBytes: 64 << 20,
    heavy: true,
    problems: ['other-class', 'name-taken'],
    answer: ImportAnswer,
    answers: 'What is new, changed, or the same; with `preview` nothing is written.',
  }),
  exampleFile: endpoint({
    id: 'exampleFile',
    method: 'post',
    path: '/example-file',
    area: 'recognition',
    summary: 'Columns and values of an example file',
    may: rights,
    body: shape({
      name: Joi.string().max(255),
      content: Joi.string().base64().max(45_000_000),
      rows: withDefault(Joi.number().integer().min(1).max(1_000_000), 2000),
    }),
    bodyBytes: 64 << 20,
    heavy: true,
    answer: shape({ columns: list(ExampleColumn) }),
    answers: 'Columns with the values of so many rows. Nothing of the file is kept.',
  }),
  columnValues: endpoint({
    id: 'columnValues',
    method: 'post',
    path: '/column-values',
    area: 'recognition',
    summary: 'Values of a catalogued column, or of an enumeration, as examples or as a list',
    may: role('steward', 'any domain', 'and to read the column unmasked'),
    body: shape({
      assetId: id,
      rows: withDefault(Joi.number().integer().min(1).max(1_000_000), 2000).description('Rows that are looked at'),
    }),
    heavy: true,
    problems: ['not-found', 'agent-only', 'no-values', ...QUERY_PROBLEMS],
    answer: shape({ name: text, path: text, values: list(text) }),
    answers: 'Different values as the source has them now. That they were read stands in the journal.',
  }),
  switchEffect: endpoint({
    id: 'switchEffect',
    method: 'get',
    path: '/detectors-off/effect',
    area: 'recognition',
    summary: 'What carries a class by detectors that are to be switched off',
    may: 'signed in',
    query: shape({ ids: Joi.string().max(60_000).description('Ids with commas between') }),
    answer: SwitchEffect,
    answers: 'Columns that you may see, and how many of them people have confirmed.',
  }),
  startTrial: endpoint({
    id: 'startTrial',
    method: 'post',
    path: '/detector-trials',
    area: 'recognition',
    summary: 'Try a draft of a detector on live samples of all sources',
    may: rights,
    body: shape({
      classKey: Joi.string().max(80),
      detectorId: withDefault(nullable(Joi.string().max(120)), null),
      spec: DetectorSpecBody,
    }),
    bodyBytes: 64 << 20,
    heavy: true,
    answer: TrialAnswer,
    answers: 'The trial; it goes on in the background.',
  }),
  trial: endpoint({
    id: 'trial',
    method: 'get',
    path: '/detector-trials/:id',
    area: 'recognition',
    summary: 'How far a trial is, and what it has found',
    may: 'signed in',
    params: idParam,
    answer: TrialAnswer,
    answers: 'Columns that would gain the class, and that would lose it.',
  }),
  stopTrial: endpoint({
    id: 'stopTrial',
    method: 'post',
    path: '/detector-trials/:id/stopped',
    area: 'recognition',
    summary: 'Stop a trial',
    may: 'signed in',
    params: idParam,
    answer: TrialAnswer,
    answers: 'The trial.',
  }),
};
