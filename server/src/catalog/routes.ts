import { addressEndpoints, catalogEndpoints, searchEndpoints } from '@idrel/contract/catalog';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import { ApiProblem } from '../platform/problems.ts';
import { assetAt } from './addresses.ts';
import { assetUse } from './asked.ts';
import { cardAt } from './cards.ts';
import type { WithFinder } from './finderClient.ts';
import { assetKeys } from './keys.ts';
import { addLink, bringBackLink, changeLink, listLinks, removeLink } from './links.ts';
import { linkPreviews } from './previews.ts';
import { addSearch, bringBackSearch, changeSearch, listSearches, pinSearch, removeSearch } from './searches.ts';
import { children, columnsOfType, facets, findAssets, getAsset, tree, whyFound } from './service.ts';

export function catalogRoutes(router: Router, { db, config, finder }: WithFinder): void {
  serve(router, catalogEndpoints.list, ({ who, query }) => findAssets(db, finder, who, query));
  serve(router, catalogEndpoints.facets, ({ who, query }) => facets(finder, who, query));
  serve(router, catalogEndpoints.why, ({ who, params, query }) => whyFound(finder, who, params.id, query));
  serve(router, catalogEndpoints.tree, ({ who, query }) => tree(db, finder, who, query));
  serve(router, catalogEndpoints.get, ({ who, params }) => getAsset(db, who, params.id));
  serve(router, catalogEndpoints.assetKeys, ({ who, params }) => assetKeys(db, who, params.id));
  serve(router, catalogEndpoints.assetUse, ({ who, params, query }) => assetUse(db, who, params.id, query));
  serve(router, catalogEndpoints.columnsOfType, ({ who, params, query }) => columnsOfType(db, who, params.id, query));
  serve(router, catalogEndpoints.children, ({ who, params }) => children(db, who, params.id));
  serve(router, addressEndpoints.at, ({ who, query }) => assetAt(db, who, query.address));
  serve(router, addressEndpoints.oembed, async ({ query, request }) => {
    if (query.format !== 'json')
      throw new ApiProblem('not-offered', 'Only JSON is offered.', { mend: 'Ask with format=json.' });
    const { title, owners } = await cardAt(db, pathIn(query.url));
    return {
      version: '1.0' as const,
      type: 'link' as const,
      title,
      ...(owners.length > 0 ? { author_name: owners.join(', ') } : {}),
      provider_name: 'Idrel',
      provider_url: `${request.protocol}://${request.get('host')}`,
      cache_age: 3600,
    };
  });
  serve(router, addressEndpoints.links, ({ who, params }) => listLinks(db, who, params.id));
  serve(router, addressEndpoints.linkPreviews, ({ who, params }) => linkPreviews(db, config, who, params.id));
  serve(router, addressEndpoints.addLink, ({ who, params, body }) =>
    db.transaction((tx) => addLink(tx, who, params.id, body)),
  );
  serve(router, addressEndpoints.changeLink, ({ who, params, body, version }) =>
    db.transaction((tx) => changeLink(tx, who, params.id, version, body)),
  );
  serve(router, addressEndpoints.removeLink, ({ who, params }) =>
    db.transaction((tx) => removeLink(tx, who, params.id)),
  );
  serve(router, addressEndpoints.bringBackLink, ({ who, params }) =>
    db.transaction((tx) => bringBackLink(tx, who, params.id)),
  );
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

/** The path of an address as somebody pasted it; nothing of one that cannot be read. */
function pathIn(url: string): string {
  try {
    return new URL(url).pathname;
  } catch {
    return '';
  }
}
