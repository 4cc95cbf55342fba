import type { Finding } from '@idrel/core/recognition';
import { endpoint, id, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';
import { type FileKind, fileKindsBody, sampledRows, sampleMethod } from '../scanning/plans.ts';
import { certaintyEndpoints } from './certainty.ts';
import { levelEndpoints } from './levels.ts';
import { ownEndpoints } from './own.ts';

export type * from './certainty.ts';
export type * from './levels.ts';
export type * from './own.ts';

export interface FindingAnswer extends Omit<Finding, 'state'> {
  readonly assetId: string;
  readonly column: string;
  readonly table: string;
  readonly tableId: string;
  readonly path: string;
  readonly source: string;
  readonly domain: string;
  readonly state: 'certain' | 'to-settle' | 'confirmed' | 'dismissed';
  readonly decidedBy: string | null;
  readonly decidedAt: string | null;
  readonly reason: string;
  readonly maySettle: boolean;
  /** The rule that confirmed it, where nobody decided. */
  readonly rule: string | null;
  /** The dismissal by name and type that holds it back, where nobody decided of this column; or that it has outgrown. */
  readonly remembered: {
    readonly id: string;
    readonly by: string | null;
    readonly at: string;
    readonly reason: string;
    readonly share: number;
    readonly confidence: number;
  } | null;
  /** It was dismissed when it said much less: what it said then. */
  readonly dismissedAt: {
    readonly detector: string;
    readonly version: string;
    readonly share: number;
    readonly confidence: number;
  } | null;
}
/** Columns of the same name, elsewhere: what waits there, and what people decided. */
export interface AlikeAnswer {
  /** Findings of the same class to settle, in columns of the same name and type, in domains where one may settle them. */
  readonly waiting: readonly {
    readonly assetId: string;
    readonly path: string;
    readonly source: string;
    readonly share: number;
    readonly confidence: number;
  }[];
  readonly decided: readonly {
    readonly assetId: string;
    readonly path: string;
    readonly source: string;
    readonly decision: 'confirmed' | 'dismissed';
    readonly by: string;
    readonly at: string;
    readonly reason: string;
  }[];
}
export interface DetectorAnswer {
  readonly id: string;
  /** Made by the organisation. */
  readonly own: boolean;
  /** Switched off for the organisation. */
  readonly off: boolean;
  /** The country whose form it knows. */
  readonly country: string | null;
  readonly version: string;
  readonly classKey: string;
  readonly label: string;
  readonly theme: string;
  readonly level: number;
  readonly strength: number;
  readonly minShare: number;
  readonly accepts: readonly string[];
  readonly rejects: readonly string[];
  readonly namesFor: readonly string[];
  readonly found: number;
  readonly confirmed: number;
  readonly dismissed: number;
}

export interface DetectorSetBody {
  readonly name: string;
  readonly description: string;
  /** Detectors that do not look; all others do, also those that come later. */
  readonly leavesOut: readonly string[];
  /** Kinds of files whose values are looked at; null: as each plan says. */
  readonly fileKinds: readonly FileKind[] | null;
  /** How many rows are looked at, and which; null: as each plan says. */
  readonly sampling: { readonly rows: number; readonly method: 'random' | 'first' } | null;
}
export interface DetectorSetAnswer extends DetectorSetBody {
  readonly id: string;
  readonly version: number;
  readonly detectors: number;
  readonly all: number;
  /** Plans that use it, of sources one may see; and how many more do. */
  readonly plans: readonly { readonly id: string; readonly name: string; readonly source: string }[];
  readonly plansElsewhere: number;
}

const setBody = Joi.object({
  name: Joi.string().trim().min(1).max(120).required(),
  description: Joi.string().trim().allow('').max(4000).default(''),
  leavesOut: Joi.array()
    .items(Joi.string().max(120))
    .unique()
    .max(1000)
    .required()
    .description('Ids of detectors that do not look'),
  fileKinds: fileKindsBody.description('Kinds of files whose values are looked at; null: as each plan says'),
  sampling: Joi.object({ rows: sampledRows.required(), method: sampleMethod.required() })
    .allow(null)
    .default(null)
    .description('How many rows are looked at, and which; null: as each plan says'),
});
const setRights = 'steward or source administrator in any domain';

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
    answers: 'Each with what it leaves out, and the plans that use it.',
  }),
  addSet: endpoint({
    id: 'addDetectorSet',
    method: 'post',
    path: '/detector-sets',
    area: 'recognition',
    summary: 'Make a detector set',
    rights: setRights,
    body: setBody,
    answers: 'The set.',
  }),
  changeSet: endpoint({
    id: 'changeDetectorSet',
    method: 'put',
    path: '/detector-sets/:id',
    area: 'recognition',
    summary: 'Change a detector set',
    rights: setRights,
    params: idParam,
    body: setBody,
    answers:
      'The set as it is now; its plans use it so from their next run on. Send If-Match with the version you saw.',
  }),
  removeSet: endpoint({
    id: 'removeDetectorSet',
    method: 'delete',
    path: '/detector-sets/:id',
    area: 'recognition',
    summary: 'Remove a detector set that no plan uses',
    rights: setRights,
    params: idParam,
    answers: 'Nothing. Refused while a plan uses it.',
  }),
  findings: endpoint({
    id: 'findings',
    method: 'get',
    path: '/findings',
    area: 'recognition',
    summary: 'Findings with their evidence',
    query: Joi.object({
      state: Joi.string().valid('certain', 'to-settle', 'confirmed', 'dismissed', 'open'),
      asset: id,
      class: Joi.string().max(80),
      limit: Joi.number().integer().min(1).max(500).default(200),
      offset: Joi.number().integer().min(0).default(0),
    }),
    answers: 'Findings, those to settle first.',
  }),
  alike: endpoint({
    id: 'findingsAlike',
    method: 'get',
    path: '/findings/alike',
    area: 'recognition',
    summary: 'Columns named like one with a finding: what waits there, and what people decided',
    query: Joi.object({ asset: id.required(), class: Joi.string().max(80).required() }),
    answers: 'Findings to settle of the same class, name and type; decisions on columns of the same name.',
  }),
  decide: endpoint({
    id: 'decideFindings',
    method: 'post',
    path: '/findings/decisions',
    area: 'recognition',
    summary: 'Confirm or dismiss findings, or take a decision back',
    rights: 'steward in the domain',
    body: Joi.object({
      decisions: Joi.array()
        .items(
          Joi.object({
            assetId: id.required(),
            classKey: Joi.string().max(80).required(),
            decision: Joi.string().valid('confirmed', 'dismissed', 'open').required(),
            reason: Joi.string().allow('').max(1000).default(''),
            remember: Joi.boolean()
              .default(false)
              .description(
                'A dismissal: holds for every column of this name and type in the domain and below, now and later',
              ),
          }),
        )
        .min(1)
        .max(1000)
        .required(),
    }),
    answers: 'How many were decided.',
  }),
  detectors: endpoint({
    id: 'detectors',
    method: 'get',
    path: '/detectors',
    area: 'recognition',
    summary: 'Detectors, with the values they are tested with and how people judged them',
    answers: 'All detectors.',
  }),
};
