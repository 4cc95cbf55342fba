import { worklistEndpoints } from '@idrel/contract/worklist';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { getRun, seeBreaking } from '../scanning/index.ts';
import { worklist } from './service.ts';

export function worklistRoutes(router: Router, { db }: Context): void {
  serve(router, worklistEndpoints.list, ({ who, query }) => worklist(db, who, query));
  serve(router, worklistEndpoints.seen, async ({ who, params, body }) => {
    await getRun(db, who, params.id);
    await seeBreaking(db, who, params.id, body.seen);
  });
}
