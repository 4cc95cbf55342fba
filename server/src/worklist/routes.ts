import { worklistEndpoints } from '@idrel/contract/worklist';
import type { Router } from 'express';
import type { WithFinder } from '../catalog/index.ts';
import { seeBroken } from '../lineage/index.ts';
import { serve } from '../platform/api.ts';
import { getRun, seeBreaking, seeFailed } from '../scanning/index.ts';
import { worklist } from './service.ts';

export function worklistRoutes(router: Router, { db, finder }: WithFinder): void {
  serve(router, worklistEndpoints.list, ({ who, query }) => worklist(db, finder, who, query));
  serve(router, worklistEndpoints.seen, async ({ who, params, body }) => {
    await getRun(db, who, params.id);
    await seeBreaking(db, who, params.id, body.seen);
  });
  serve(router, worklistEndpoints.brokenSeen, ({ who, params, body }) => seeBroken(db, who, params.id, body));
  serve(router, worklistEndpoints.failedSeen, ({ who, params, body }) =>
    seeFailed(db, who, params.id, body.runId, body.seen),
  );
}
