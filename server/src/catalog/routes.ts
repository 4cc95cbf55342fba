import { catalogEndpoints, searchEndpoints } from '@idrel/contract/catalog';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { WithFinder } from './finderClient.ts';
import { addSearch, bringBackSearch, changeSearch, listSearches, pinSearch, removeSearch } from './searches.ts';
import { children, columnsOfType, facets, findAssets, getAsset, tree, whyFound } from './service.ts';

export function catalogRoutes(router: Router, { db, finder }: WithFinder): void {
  serve(router, catalogEndpoints.list, ({ who, query }) => findAssets(db, finder, who, query));
  serve(router, catalogEndpoints.facets, ({ who, query }) => facets(finder, who, query));
  serve(router, catalogEndpoints.why, ({ who, params, query }) => whyFound(finder, who, params.id, query));
  serve(router, catalogEndpoints.tree, ({ who, query }) => tree(db, finder, who, query));
  serve(router, catalogEndpoints.get, ({ who, params }) => getAsset(db, who, params.id));
  serve(router, catalogEndpoints.columnsOfType, ({ who, params, query }) => columnsOfType(db, who, params.id, query));
  serve(router, catalogEndpoints.children, ({ who, params }) => children(db, who, params.id));
  serve(router, searchEndpoints.list, ({ who }) => listSearches(db, who));
  serve(router, searchEndpoints.create, ({ who, body }) => db.transaction((tx) => addSearch(tx, who, body)));
  serve(router, searchEndpoints.change, ({ who, params, body, version }) =>
    db.transaction((tx) => changeSearch(tx, who, params.id, version, body)),
  );
  serve(router, searchEndpoints.remove, ({ who, params }) => db.transaction((tx) => removeSearch(tx, who, params.id)));
  serve(router, searchEndpoints.bringBack, ({ who, params }) =>
    db.transaction((tx) => bringBackSearch(tx, who, params.id)),
  );
  serve(router, searchEndpoints.pin, ({ who, params, body }) =>
    db.transaction((tx) => pinSearch(tx, who, params.id, body.pinned)),
  );
}
