import { recognitionEndpoints } from '@idrel/contract/recognition';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { decideFindings, listDetectors, listFindings } from './service.ts';

export function recognitionRoutes(router: Router, { db }: Context): void {
  serve(router, recognitionEndpoints.findings, ({ who, query }) => listFindings(db, who, query));
  serve(router, recognitionEndpoints.decide, ({ who, body }) => db.transaction(async (tx) => ({ decided: await decideFindings(tx, who, body.decisions as Parameters<typeof decideFindings>[2]) })));
  serve(router, recognitionEndpoints.detectors, () => listDetectors(db));
}
export { listFindings } from './service.ts';
