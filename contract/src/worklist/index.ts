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
    };
export interface WorklistAnswer {
  readonly counts: { readonly finding: number; readonly unowned: number };
  readonly items: readonly WorkItem[];
}

export const worklistEndpoints = {
  list: endpoint({
    id: 'worklist',
    method: 'get',
    path: '/worklist',
    area: 'worklist',
    summary: 'What waits for your decision',
    query: Joi.object({ kind: Joi.string().valid('finding', 'unowned'), limit: Joi.number().integer().min(1).max(500).default(200) }),
    answers: 'Items in domains where you are a steward, weightiest first.',
  }),
};
