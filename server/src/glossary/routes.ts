import { glossaryEndpoints } from '@idrel/contract/glossary';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { addTerm, changeTerm, listTerms } from './service.ts';

export function glossaryRoutes(router: Router, { db }: Context): void {
  serve(router, glossaryEndpoints.list, ({ who }) => listTerms(db, who));
  serve(router, glossaryEndpoints.create, ({ who, body }) => db.transaction((tx) => addTerm(tx, who, body)));
  serve(router, glossaryEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changeTerm(tx, who, params.id, version, body)),
  );
}
