import type { Finding } from '@idrel/core/recognition';
import Joi from 'joi';
import { endpoint, id } from '../http/index.ts';

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
}
export interface DetectorAnswer {
  readonly id: string;
  readonly version: string;
  readonly classKey: string;
  readonly label: string;
  readonly theme: string;
  readonly level: string;
  readonly strength: number;
  readonly minShare: number;
  readonly accepts: readonly string[];
  readonly rejects: readonly string[];
  readonly namesFor: readonly string[];
  readonly found: number;
  readonly confirmed: number;
  readonly dismissed: number;
}

export const recognitionEndpoints = {
  findings: endpoint({
    id: 'findings',
    method: 'get',
    path: '/findings',
    area: 'recognition',
    summary: 'Findings with their evidence',
    query: Joi.object({
      state: Joi.string().valid('certain', 'to-settle', 'confirmed', 'dismissed', 'open'),
      asset: id,
      class: Joi.string().max(60),
      limit: Joi.number().integer().min(1).max(500).default(200),
      offset: Joi.number().integer().min(0).default(0),
    }),
    answers: 'Findings, those to settle first.',
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
            classKey: Joi.string().max(60).required(),
            decision: Joi.string().valid('confirmed', 'dismissed', 'open').required(),
            reason: Joi.string().allow('').max(1000).default(''),
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
