import { catalogEndpoints } from '@idrel/contract/catalog';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { children, columnsOfType, facets, findAssets, getAsset, tree } from './service.ts';

export function catalogRoutes(router: Router, { db }: Context): void {
  serve(router, catalogEndpoints.list, ({ who, query }) => findAssets(db, who, query));
  serve(router, catalogEndpoints.facets, ({ who, query }) => facets(db, who, query));
  serve(router, catalogEndpoints.tree, ({ who, query }) => tree(db, who, query));
  serve(router, catalogEndpoints.get, ({ who, params }) => getAsset(db, who, params.id));
  serve(router, catalogEndpoints.columnsOfType, ({ who, params, query }) => columnsOfType(db, who, params.id, query));
  serve(router, catalogEndpoints.children, ({ who, params }) => children(db, who, params.id));
}
