import { endpoint, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';
import type { FindingAnswer } from '../recognition/index.ts';

/** Changes of one run that can break what is made from what changed. */
export interface BreakingNews {
  readonly runId: string;
  readonly sourceId: string;
  readonly source: string;
  readonly at: string;
  readonly changes: readonly {
    readonly id: string;
    readonly kind: string;
    readonly path: string;
    readonly what: string;
    /** What lies downstream, one's own first. */
    readonly reached: readonly {
      readonly id: string;
      readonly kind: string;
      readonly path: string;
      readonly source: string;
      readonly distance: number;
      readonly mine: boolean;
    }[];
  }[];
}

export type WorkItem =
  | { readonly kind: 'breaking'; readonly key: string; readonly news: BreakingNews }
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
  readonly counts: {
    readonly finding: number;
    readonly unowned: number;
    readonly scan: number;
    readonly breaking: number;
  };
  readonly items: readonly WorkItem[];
}

export const worklistEndpoints = {
  list: endpoint({
    id: 'worklist',
    method: 'get',
    path: '/worklist',
    area: 'worklist',
    summary: 'What waits for your decision',
    query: Joi.object({
      kind: Joi.string().valid('finding', 'unowned', 'scan', 'breaking'),
      limit: Joi.number().integer().min(1).max(500).default(200),
    }),
    answers:
      'Items in domains where you are a steward (what scans left to decide: a source administrator), weightiest first.',
  }),
  seen: endpoint({
    id: 'seeBreaking',
    method: 'put',
    path: '/runs/:id/breaking-seen',
    area: 'worklist',
    summary: 'Take breaking changes of a run off your worklist, or put them back',
    params: idParam,
    body: Joi.object({ seen: Joi.boolean().required() }),
    answers: 'Nothing.',
  }),
};
