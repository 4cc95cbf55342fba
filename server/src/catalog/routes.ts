import { catalogEndpoints } from '@idrel/contract/catalog';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { WithFinder } from './finderClient.ts';
import { children, columnsOfType, facets, findAssets, getAsset, tree, whyFound } from './service.ts';

export function catalogRoutes(router: Router, { db, finder }: WithFinder): void {
  serve(router, catalogEndpoints.list, ({ who, query }) => findAssets(db, finder, who, query));
  serve(router, catalogEndpoints.facets, ({ who, query }) => facets(finder, who, query));
  serve(router, catalogEndpoints.why, ({ who, params, query }) => whyFound(finder, who, params.id, query));
  serve(router, catalogEndpoints.tree, ({ who, query }) => tree(db, finder, who, query));
  serve(router, catalogEndpoints.get, ({ who, params }) => getAsset(db, who, params.id));
  serve(router, catalogEndpoints.columnsOfType, ({ who, params, query }) => columnsOfType(db, who, params.id, query));
  serve(router, catalogEndpoints.children, ({ who, params }) => children(db, who, params.id));
}
