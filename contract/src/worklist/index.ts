import Joi from 'joi';
import { endpoint } from '../http/index.ts';
import type { FindingAnswer } from '../recognition/index.ts';

export type WorkItem =
  | { readonly kind: 'finding'; readonly key: string; readonly finding: FindingAnswer }
  | {
      readonly kind: 'unowned';
      readonly key: string;
      readonly asset: {
        readonly id: string;
        readonly kind: string;
        readonly name: string;
        readonly path: string;
        readonly domain: string;
        readonly source: string;
        readonly version: number;
        readonly columns: number;
        readonly classes: readonly string[];
        readonly level: number | null;
      };
    }
  /** What the last run of a source left to decide. */
  | {
      readonly kind: 'scan';
      readonly key: string;
      readonly scan: {
        readonly runId: string;
        readonly sourceId: string;
        readonly source: string;
        readonly domain: string;
        readonly at: string;
        readonly planId: string | null;
        readonly plan: string | null;
        /** Likely renames that nobody has settled. */
        readonly renames: readonly { readonly from: string; readonly to: string }[];
        /** Objects that no scope covers and that the run before did not see. */
        readonly uncovered: readonly string[];
      };
    };
export interface WorklistAnswer {
  readonly counts: { readonly finding: number; readonly unowned: number; readonly scan: number };
  readonly items: readonly WorkItem[];
}

export const worklistEndpoints = {
  list: endpoint({
    id: 'worklist',
    method: 'get',
    path: '/worklist',
    area: 'worklist',
    summary: 'What waits for your decision',
    query: Joi.object({ kind: Joi.string().valid('finding', 'unowned', 'scan'), limit: Joi.number().integer().min(1).max(500).default(200) }),
    answers: 'Items in domains where you are a steward (what scans left to decide: a source administrator), weightiest first.',
  }),
};
