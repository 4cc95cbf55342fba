import { curationEndpoints } from '@idrel/contract/curation';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { editAsset } from './service.ts';

export function curationRoutes(router: Router, { db }: Context): void {
  serve(router, curationEndpoints.edit, ({ who, params, body, version }) =>
    db.transaction((tx) => editAsset(tx, who, params.id, version, body)),
  );
}
