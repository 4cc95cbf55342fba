import { exchangeEndpoints, schemeEndpoints, termEndpoints } from '@idrel/contract/glossary';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { carryTerm, termCarriers, termsOf } from './carriers.ts';
import { termConflicts } from './conflicts.ts';
import { exportGlossary, importGlossary } from './exchange.ts';
import { addScheme, changeScheme, listSchemes, removeScheme } from './schemes.ts';
import { addTerm, bringBackTerm, changeTerm, findTerms, getTerm, removeTerm, termTree } from './terms.ts';

export function glossaryRoutes(router: Router, { db }: Context): void {
  serve(router, schemeEndpoints.list, ({ who }) => listSchemes(db, who));
  serve(router, schemeEndpoints.create, ({ who, body }) => db.transaction((tx) => addScheme(tx, who, body)));
  serve(router, schemeEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changeScheme(tx, who, params.id, version, body)),
  );
  serve(router, schemeEndpoints.remove, ({ who, params }) => db.transaction((tx) => removeScheme(tx, who, params.id)));

  serve(router, termEndpoints.list, ({ who, query }) => findTerms(db, who, query));
  serve(router, termEndpoints.tree, ({ who, query }) => termTree(db, who, query));
  serve(router, termEndpoints.conflicts, ({ who }) => termConflicts(db, who));
  serve(router, termEndpoints.one, ({ who, params }) => getTerm(db, who, params.id));
  serve(router, termEndpoints.carriers, ({ who, params }) => termCarriers(db, who, params.id));
  serve(router, termEndpoints.carry, ({ who, params, body }) =>
    db.transaction((tx) => carryTerm(tx, who, params.id, body)),
  );
  serve(router, termEndpoints.ofCarrier, ({ query }) => termsOf(db, query));
  serve(router, termEndpoints.create, ({ who, body }) => db.transaction((tx) => addTerm(tx, who, body)));
  serve(router, termEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changeTerm(tx, who, params.id, version, body)),
  );
  serve(router, termEndpoints.remove, ({ who, params }) => db.transaction((tx) => removeTerm(tx, who, params.id)));
  serve(router, termEndpoints.bringBack, ({ who, params }) =>
    db.transaction((tx) => bringBackTerm(tx, who, params.id)),
  );

  serve(router, exchangeEndpoints.exported, ({ who, query }) => exportGlossary(db, who, query.format, query.scheme));
  serve(router, exchangeEndpoints.imported, ({ who, query, body }) => importGlossary(db, who, body, query.preview));
}
