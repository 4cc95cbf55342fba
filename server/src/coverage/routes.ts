import { coverageEndpoints } from '@idrel/contract/coverage';
import type { Router } from 'express';
import type { WithFinder } from '../catalog/index.ts';
import { serve } from '../platform/api.ts';
import { coverage, levelReport } from './service.ts';

export function coverageRoutes(router: Router, { db, finder }: WithFinder): void {
  serve(router, coverageEndpoints.levels, ({ who, query }) => levelReport(db, finder, who, query.by, query.days));
  serve(router, coverageEndpoints.read, ({ who, query }) => coverage(db, finder, who, query.by));
}
