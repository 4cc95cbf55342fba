import type { FilterKey, Standing } from '@idrel/core/catalog';
import type { ColumnProfile } from '@idrel/core/scanning';
import { endpoint, id, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';
import type { PersonBrief } from '../people/index.ts';

export interface AssetRow {
  readonly id: string;
  readonly kind: string;
  readonly name: string;
  readonly path: string;
  readonly parentId: string | null;
  readonly sourceId: string;
  readonly source: string;
  readonly domain: string;
  readonly description: string | null;
  readonly comment: string | null;
  readonly standing: Standing;
  readonly level: number | null;
  readonly owners: readonly PersonBrief[];
  readonly classes: readonly string[];
  readonly terms: readonly { readonly id: string; readonly name: string }[];
  readonly type: string | null;
  readonly rows: number | null;
  readonly children: number;
  readonly gone: boolean;
  readonly version: number;
}
export interface AssetAnswer extends AssetRow {
  readonly stewards: readonly PersonBrief[];
  readonly domainId: string;
  readonly native: Record<string, unknown>;
  /** How often it was asked for at its source, as that counts since it last began; null when it does not, or never was. */
  readonly use: {
    readonly calls: number;
    readonly roles: number;
    readonly statements: number;
    readonly movedAt: string;
    readonly seenAt: string;
  } | null;
  /** Of a column: the type that somebody made and it has, or has an array of, where it is an asset itself. `permits`: the values of an enumeration. */
  readonly ofType: { readonly id: string; readonly name: string; readonly permits: readonly string[] | null } | null;
  readonly levelFound: number | null;
  readonly levelSet: number | null;
  readonly levelReason: string | null;
  readonly ancestors: readonly { readonly id: string; readonly kind: string; readonly name: string }[];
  readonly firstSeen: string;
  readonly lastSeen: string;
  readonly goneAt: string | null;
  readonly mayEdit: boolean;
  readonly mayCertify: boolean;
}
export interface ProfileAnswer {
  readonly assetId: string;
  readonly name: string;
  readonly at: string;
  readonly profile: ColumnProfile;
}
export type { ColumnProfile };
export interface TreeNode {
  readonly id: string;
  readonly type: 'domain' | 'source' | 'asset';
  readonly kind: string;
  readonly name: string;
  readonly count: number;
  readonly filter: string;
  readonly hasChildren: boolean;
}
export interface Facet {
  readonly key: FilterKey;
  readonly values: readonly { readonly value: string; readonly label: string; readonly count: number }[];
}

export const SORTS = ['relevance', 'name', 'kind', 'source', 'standing', 'level', 'path'] as const;
const filter = Joi.string()
  .allow('')
  .max(2000)
  .default('')
  .description('Filter language: words and key:value conditions');

export const catalogEndpoints = {
  list: endpoint({
    id: 'assets',
    method: 'get',
    path: '/assets',
    area: 'catalog',
    summary: 'Find assets',
    query: Joi.object({
      filter,
      under: id.description('Only what lies below this asset'),
      sort: Joi.string()
        .valid(...SORTS)
        .default('relevance'),
      descending: Joi.boolean().default(false),
      limit: Joi.number().integer().min(1).max(200).default(100),
      offset: Joi.number().integer().min(0).max(1_000_000).default(0),
    }),
    answers: 'A page of assets you may see, and how many there are.',
  }),
  facets: endpoint({
    id: 'facets',
    method: 'get',
    path: '/assets/facets',
    area: 'catalog',
    summary: 'Counts by kind, source, domain, class, level, standing',
    query: Joi.object({ filter, under: id }),
    answers: 'Facets over what the filter finds.',
  }),
  tree: endpoint({
    id: 'tree',
    method: 'get',
    path: '/tree',
    area: 'catalog',
    summary: 'One step of the tree of domains or sources',
    query: Joi.object({
      by: Joi.string().valid('domain', 'source').default('domain'),
      parent: id,
      parentType: Joi.string().valid('domain', 'source', 'asset'),
    }).and('parent', 'parentType'),
    answers: 'The children of a node.',
  }),
  get: endpoint({
    id: 'asset',
    method: 'get',
    path: '/assets/:id',
    area: 'catalog',
    summary: 'One asset',
    params: idParam,
    answers: 'The asset with what people and scans say.',
  }),
  profiles: endpoint({
    id: 'profiles',
    method: 'get',
    path: '/assets/:id/profiles',
    area: 'catalog',
    summary: 'What the values of a column, or of the columns of a table, are like',
    params: idParam,
    answers: 'Profiles of the columns that were looked at, in their order. Of guarded columns no value is kept.',
  }),
  children: endpoint({
    id: 'children',
    method: 'get',
    path: '/assets/:id/children',
    area: 'catalog',
    summary: 'Assets directly below, in their own order',
    params: idParam,
    answers: 'At most 2,000 assets.',
  }),
  columnsOfType: endpoint({
    id: 'columnsOfType',
    method: 'get',
    path: '/assets/:id/columns-of-type',
    area: 'catalog',
    summary: 'Columns that have a type somebody made, or an array of it',
    params: idParam,
    query: Joi.object({
      limit: Joi.number().integer().min(1).max(200).default(100),
      offset: Joi.number().integer().min(0).max(1_000_000).default(0),
    }),
    answers: 'A page of columns you may see, in the order of their names.',
  }),
};
