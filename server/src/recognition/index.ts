import { type DetectorSetBody, recognitionEndpoints } from '@idrel/contract/recognition';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { decideFindings, listDetectors, listFindings } from './service.ts';
import { listSets, removeSet, saveSet } from './sets.ts';

export function recognitionRoutes(router: Router, { db }: Context): void {
  serve(router, recognitionEndpoints.findings, ({ who, query }) => listFindings(db, who, query));
  serve(router, recognitionEndpoints.decide, ({ who, body }) => db.transaction(async (tx) => ({ decided: await decideFindings(tx, who, body.decisions as Parameters<typeof decideFindings>[2]) })));
  serve(router, recognitionEndpoints.detectors, () => listDetectors(db));
  serve(router, recognitionEndpoints.sets, ({ who }) => listSets(db, who));
  serve(router, recognitionEndpoints.addSet, ({ who, body }) => db.transaction((tx) => saveSet(tx, who, null, undefined, body as unknown as DetectorSetBody)));
  serve(router, recognitionEndpoints.changeSet, ({ who, params, body, version }) => db.transaction((tx) => saveSet(tx, who, params.id ?? '', version, body as unknown as DetectorSetBody)));
  serve(router, recognitionEndpoints.removeSet, ({ who, params }) => db.transaction((tx) => removeSet(tx, who, params.id ?? '')));
}
export { listFindings } from './service.ts';
export { leftOutBy, mustHaveSet } from './sets.ts';
