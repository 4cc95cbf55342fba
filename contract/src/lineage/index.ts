import type { InfluenceKind, ValueKind } from '@idrel/core/lineage';
import { endpoint, id } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

export interface LineageColumn {
  readonly id: string;
  readonly name: string;
  readonly type: string | null;
  readonly classes: readonly string[];
  readonly level: number | null;
}
export interface LineageNode {
  readonly id: string;
  readonly kind: string;
  readonly name: string;
  readonly path: string;
  readonly sourceId: string;
  readonly source: string;
  readonly standing: string;
  readonly level: number | null;
  readonly columns: readonly LineageColumn[];
  readonly statement: string | null;
  readonly problems: readonly string[];
  readonly more: { readonly upstream: number; readonly downstream: number };
}
export interface LineageLink {
  readonly from: string;
  readonly to: string;
  readonly fromTable: string;
  readonly toTable: string;
  readonly kind: ValueKind;
}
export interface LineageInfluence {
  readonly from: string;
  readonly fromTable: string;
  readonly toTable: string;
  readonly kind: InfluenceKind;
}
export interface LineageAnswer {
  readonly focus: string;
  readonly nodes: readonly LineageNode[];
  readonly links: readonly LineageLink[];
  readonly influences: readonly LineageInfluence[];
}
export interface ImpactRow {
  readonly id: string;
  readonly kind: string;
  readonly name: string;
  readonly path: string;
  readonly source: string;
  readonly distance: number;
  readonly way: readonly string[];
  readonly owners: readonly string[];
  readonly level: number | null;
  readonly how: string;
}

export const lineageEndpoints = {
  picture: endpoint({
    id: 'lineage',
    method: 'get',
    path: '/lineage',
    area: 'lineage',
    summary: 'The lineage around an asset',
    query: Joi.object({
      focus: id.required(),
      upstream: Joi.number().integer().min(0).max(20).default(3),
      downstream: Joi.number().integer().min(0).max(20).default(3),
    }),
    answers: 'Tables and views with their columns, and the edges between columns.',
  }),
  impact: endpoint({
    id: 'impact',
    method: 'get',
    path: '/lineage/impact',
    area: 'lineage',
    summary: 'All that lies downstream or upstream of an asset or column',
    query: Joi.object({
      asset: id.required(),
      direction: Joi.string().valid('downstream', 'upstream').default('downstream'),
    }),
    answers: 'The impact list, nearest first, each with a shortest path.',
  }),
};
