import { coverageEndpoints } from '@idrel/contract/coverage';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { coverage, levelReport } from './service.ts';

export function coverageRoutes(router: Router, { db }: Context): void {
  serve(router, coverageEndpoints.levels, ({ who, query }) => levelReport(db, who, query.by, query.days));
  serve(router, coverageEndpoints.read, ({ who, query }) => coverage(db, who, query.by));
}
