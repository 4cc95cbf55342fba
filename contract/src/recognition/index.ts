import type { Finding, TextEvidence } from '@idrel/core/recognition';
import {
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
  optional,
  record,
  role,
  shape,
  text,
  typed,
  whole,
  withDefault,
} from '../http/index.ts';
import { fileKindsBody, sampledRows, sampleMethod } from '../scanning/plans.ts';
import { certaintyEndpoints } from './certainty.ts';
import { levelEndpoints } from './levels.ts';
import { ownEndpoints } from './own.ts';

export * from './certainty.ts';
export * from './levels.ts';
export * from './own.ts';

const textEvidence = like<TextEvidence>()(
  shape({
    kind: oneOf(['message', 'log', 'record', 'markup', 'note', 'prose']),
    share: number.description('Share of the texts that are of that kind, 0 to 1.'),
    examples: list(shape({ length: whole, places: list(shape({ kind: text, start: whole, end: whole })) })).description(
      'At most five: how long, and what stands where.',
    ),
  }),
);
const finding = like<Omit<Finding, 'state' | 'inside' | 'texts'>>()(
  shape({
    classKey: text,
    label: text,
    level: optional(oneOf([1, 2, 3, 4])).description('Of a class that is your own.'),
    detector: text,
    version: text,
    share: number.description('Matching rows among those with a value, 0 to 1.'),
    matched: number,
    sampled: number,
    distinct: number.description('Different values that match.'),
    confidence: number.description('0 to 1.'),
    name: shape({ verdict: oneOf(['agrees', 'neutral', 'disagrees']), words: list(text) }),
    terms: list(shape({ reason: text, logOdds: number })).description('What makes up the confidence.'),
    examples: list(text).description('At most five, masked.'),
    checked: optional(typed<true>(Joi.valid(true))).description('Check digits were verified.'),
  }),
);
export const FindingAnswer = extended(finding, {
  inside: nullable(record(number)).description(
    'Of free text: how many rows hold which kind of personal data; of JSON: how many values match at which path.',
  ),
  texts: nullable(textEvidence).description(
    'Of free text: how the texts were written, and where in some of them what stands.',
  ),
  assetId: text,
  column: text,
  table: text,
  tableId: text,
  path: text,
  source: text,
  domain: text,
  state: oneOf(['certain', 'to-settle', 'confirmed', 'dismissed']),
  decidedBy: nullable(text),
  decidedAt: nullable(moment),
  reason: text,
  maySettle: flag,
  rule: nullable(text).description('The rule that confirmed it, where nobody decided.'),
  remembered: nullable(
    shape({ id: text, by: nullable(text), at: moment, reason: text, share: number, confidence: number }),
  ).description(
    'The dismissal by name and type that holds it back, where nobody decided of this column; or that it has outgrown.',
  ),
  dismissedAt: nullable(shape({ detector: text, version: text, share: number, confidence: number })).description(
    'It was dismissed when it said much less: what it said then.',
  ),
});
export type FindingAnswer = Of<typeof FindingAnswer>;
/** Columns of the same name, elsewhere: what waits there, and what people decided. */
export const AlikeAnswer = shape({
  waiting: list(shape({ assetId: text, path: text, source: text, share: number, confidence: number })).description(
    'Findings of the same class to settle, in columns of the same name and type, in domains where one may settle them.',
  ),
  decided: list(
    shape({
      assetId: text,
      path: text,
      source: text,
      decision: oneOf(['confirmed', 'dismissed']),
      by: text,
      at: moment,
      reason: text,
    }),
  ),
});
export type AlikeAnswer = Of<typeof AlikeAnswer>;
export const DetectorAnswer = shape({
  id: text,
  own: flag.description('Made by the organisation.'),
  off: flag.description('Switched off for the organisation.'),
  country: nullable(text).description('The country whose form it knows.'),
  version: text,
  classKey: text,
  label: text,
  theme: text,
  level: number,
  strength: number,
  minShare: number,
  accepts: list(text),
  rejects: list(text),
  namesFor: list(text),
  found: number,
  confirmed: number,
  dismissed: number,
});
export type DetectorAnswer = Of<typeof DetectorAnswer>;

export const DetectorSetBody = shape({
  name: Joi.string().trim().min(1).max(120),
  description: withDefault(Joi.string().trim().allow('').max(4000), ''),
  leavesOut: list(Joi.string().max(120)).unique().max(1000).description('Ids of detectors that do not look'),
  fileKinds: fileKindsBody.description('Kinds of files whose values are looked at; null: as each plan says'),
  sampling: withDefault(nullable(shape({ rows: sampledRows, method: sampleMethod })), null).description(
    'How many rows are looked at, and which; null: as each plan says',
  ),
});
export type DetectorSetBody = Of<typeof DetectorSetBody>;
export const DetectorSetAnswer = extended(DetectorSetBody, {
  id: text,
  version: number,
  detectors: number,
  all: number,
  plans: list(shape({ id: text, name: text, source: text })).description(
    'Plans that use it, of sources one may see; and how many more do.',
  ),
  plansElsewhere: number,
});
export type DetectorSetAnswer = Of<typeof DetectorSetAnswer>;

const setRights = role(['steward', 'source administrator'], 'any domain');

export const recognitionEndpoints = {
  ...ownEndpoints,
  ...levelEndpoints,
  ...certaintyEndpoints,
  sets: endpoint({
    id: 'detectorSets',
    method: 'get',
    path: '/detector-sets',
    area: 'recognition',
    summary: 'Detector sets',
    may: 'signed in',
    answer: list(DetectorSetAnswer),
    answers: 'Each with what it leaves out, and the plans that use it.',
  }),
  addSet: endpoint({
    id: 'addDetectorSet',
    method: 'post',
    path: '/detector-sets',
    area: 'recognition',
    summary: 'Make a detector set',
    may: setRights,
    body: DetectorSetBody,
    problems: ['name-taken'],
    answer: DetectorSetAnswer,
    answers: 'The set.',
  }),
  changeSet: endpoint({
    id: 'changeDetectorSet',
    method: 'put',
    path: '/detector-sets/:id',
    area: 'recognition',
    summary: 'Change a detector set',
    may: setRights,
    params: idParam,
    body: DetectorSetBody,
    versioned: true,
    problems: ['name-taken'],
    answer: DetectorSetAnswer,
    answers: 'The set as it is now; its plans use it so from their next run on.',
  }),
  removeSet: endpoint({
    id: 'removeDetectorSet',
    method: 'delete',
    path: '/detector-sets/:id',
    area: 'recognition',
    summary: 'Remove a detector set that no plan uses',
    may: setRights,
    params: idParam,
    problems: ['set-used'],
    answers: 'Nothing. Refused while a plan uses it.',
  }),
  findings: endpoint({
    id: 'findings',
    method: 'get',
    path: '/findings',
    area: 'recognition',
    summary: 'Findings with their evidence',
    may: 'signed in',
    query: shape({
      state: optional(oneOf(['certain', 'to-settle', 'confirmed', 'dismissed', 'open'])),
      asset: optional(id),
      class: optional(Joi.string().max(80)),
      limit: withDefault(Joi.number().integer().min(1).max(500), 200),
      offset: withDefault(Joi.number().integer().min(0), 0),
    }),
    answer: shape({ items: list(FindingAnswer), total: number }),
    answers: 'Findings, those to settle first.',
  }),
  alike: endpoint({
    id: 'findingsAlike',
    method: 'get',
    path: '/findings/alike',
    area: 'recognition',
    summary: 'Columns named like one with a finding: what waits there, and what people decided',
    may: 'signed in',
    query: shape({ asset: id, class: Joi.string().max(80) }),
    answer: AlikeAnswer,
    answers: 'Findings to settle of the same class, name and type; decisions on columns of the same name.',
  }),
  decide: endpoint({
    id: 'decideFindings',
    method: 'post',
    path: '/findings/decisions',
    area: 'recognition',
    summary: 'Confirm or dismiss findings, or take a decision back',
    may: role('steward', 'its domain'),
    body: shape({
      decisions: list(
        shape({
          assetId: id,
          classKey: Joi.string().max(80),
          decision: oneOf(['confirmed', 'dismissed', 'open']),
          reason: withDefault(Joi.string().allow('').max(1000), ''),
          remember: optional(Joi.boolean()).description(
            'Of a dismissal, true: it holds for every column of this name and type in the domain and below, now and later. False, or with another decision: that is forgotten. Unsaid: it stays as it is',
          ),
          seen: optional(nullable(moment)).description(
            'When the decision was made that was seen, null where there was none: another one since then is not written over. Unsaid: whatever stands there',
          ),
        }),
      )
        .min(1)
        .max(1000),
    }),
    problems: ['decided-meanwhile', 'not-found'],
    answer: shape({
      decided: number,
      at: moment,
      before: list(
        shape({
          assetId: text,
          classKey: text,
          decision: oneOf(['confirmed', 'dismissed', 'open']),
          reason: text,
          remembered: flag.description('It held for other columns of the name too.'),
        }),
      ).description('What stood there before, to be put back.'),
    }),
    answers: 'How many were decided, when, and what was decided before.',
  }),
  detectors: endpoint({
    id: 'detectors',
    method: 'get',
    path: '/detectors',
    area: 'recognition',
    summary: 'Detectors, with the values they are tested with and how people judged them',
    may: 'signed in',
    answer: list(DetectorAnswer),
    answers: 'All detectors.',
  }),
};
