import { lineageEndpoints } from '@idrel/contract/lineage';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { fieldOrigins } from './origins.ts';
import { impactList, lineagePicture } from './service.ts';

export function lineageRoutes(router: Router, { db }: Context): void {
  serve(router, lineageEndpoints.origins, ({ who, query }) => fieldOrigins(db, who, query.asset));
  serve(router, lineageEndpoints.picture, ({ who, query }) =>
    lineagePicture(db, who, query.focus, query.upstream, query.downstream),
  );
  serve(router, lineageEndpoints.impact, ({ who, query }) =>
    impactList(db, who, query.asset, query.direction === 'upstream' ? 'upstream' : 'downstream'),
  );
}
