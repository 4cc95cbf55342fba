import type { AssetAnswer, AssetRow } from '@idrel/contract/catalog';
import { configureStore } from '@reduxjs/toolkit';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { api } from '../app/api.ts';
import { journalApi } from '../journal/api.ts';
import { wholeAddresses } from '../testing/addresses.ts';
import { catalogApi } from './api.ts';

const row = (id: string, description: string | null = null): AssetRow => ({
  id,
  kind: 'table',
  name: id,
  path: `s.${id}`,
  parentId: null,
  sourceId: 's',
  source: 'Source',
  domain: 'Bookings',
  description,
  comment: null,
  standing: 'unreviewed',
  level: null,
  priority: 0,
  owners: [],
  classes: [],
  terms: [],
  tags: [],
  notices: [],
  type: null,
  rows: 1,
  bytes: null,
  uses: 0,
  children: 0,
  gone: false,
  version: 1,
});
const answer = (id: string, more: Partial<AssetAnswer> = {}) => ({ ...row(id), stewards: [], ...more }) as AssetAnswer;

describe('an edit of an asset', () => {
  let asked: string[];
  const served: Record<string, unknown> = {};
  const store = configureStore({
    reducer: { [api.reducerPath]: api.reducer },
    middleware: (usual) => usual().concat(api.middleware),
  });
  const { initiate } = { initiate: catalogApi.endpoints };
  const open: { unsubscribe: () => void }[] = [];
  const ask = async <T extends { unsubscribe: () => void }>(subscription: T) => {
    open.push(subscription);
    await subscription;
  };

  beforeEach(async () => {
    asked = [];
    vi.stubGlobal('sessionStorage', { getItem: () => null });
    wholeAddresses();
    vi.stubGlobal('fetch', async (request: Request) => {
      const { pathname, search } = new URL(request.url);
      asked.push(`${request.method} ${pathname.replace('/api/v1', '')}${search}`);
      const found = Object.entries(served).find(([path]) => `${request.method} ${pathname}`.endsWith(path));
      return new Response(JSON.stringify(found?.[1] ?? null), { headers: { 'content-type': 'application/json' } });
    });
    served['GET /api/v1/assets'] = { items: [row('a'), row('b')], total: 2, next: null };
    served['GET /api/v1/assets/a'] = answer('a');
    served['GET /api/v1/assets/top/children'] = [row('a')];
    served['GET /api/v1/assets/facets'] = [];
    served['GET /api/v1/journal'] = [];
    await ask(store.dispatch(initiate.assetPages.initiate({ filter: 'kind:table' })));
    await ask(store.dispatch(initiate.asset.initiate('a')));
    await ask(store.dispatch(initiate.children.initiate('top')));
    await ask(store.dispatch(initiate.facets.initiate({ filter: '' })));
    await ask(store.dispatch(journalApi.endpoints.journal.initiate('a')));
    asked = [];
  });
  afterEach(() => {
    for (const subscription of open.splice(0)) subscription.unsubscribe();
    store.dispatch(api.util.resetApiState());
    vi.unstubAllGlobals();
  });

  const edit = async (
    change: Parameters<typeof catalogApi.endpoints.editAsset.initiate>[0]['change'],
    saved: object,
  ) => {
    served['PATCH /api/v1/assets/a'] = answer('a', { version: 2, ...saved });
    await store.dispatch(initiate.editAsset.initiate({ id: 'a', version: 1, change }));
    await vi.waitFor(() => expect(store.getState().api.queries).toBeDefined());
    await new Promise((resolve) => setTimeout(resolve, 20));
  };
  const state = () => store.getState();

  it('puts its rows right where they stand, and asks for its history alone', async () => {
    await edit({ description: 'Everybody' }, { description: 'Everybody' });
    expect(asked.sort()).toEqual(['GET /journal?subject=a', 'PATCH /assets/a']);
    const pages = initiate.assetPages.select({ filter: 'kind:table' })(state()).data?.pages;
    expect(pages?.[0]?.items.map(({ id, description, version }) => [id, description, version])).toEqual([
      ['a', 'Everybody', 2],
      ['b', null, 1],
    ]);
    // A row stays a row: what only the page of an asset knows does not come into lists.
    expect(Object.keys(pages?.[0]?.items[0] ?? {})).toEqual(Object.keys(row('a')));
    expect(initiate.children.select('top')(state()).data?.[0]?.description).toBe('Everybody');
    expect(initiate.asset.select('a')(state()).data?.version).toBe(2);
  });

  it('counts anew what is counted by it', async () => {
    await edit({ standing: 'trusted' }, { standing: 'trusted' });
    expect(asked).toContain('GET /assets/facets?filter=');
    expect(asked.filter((path) => path.startsWith('GET /assets?'))).toEqual([]);
  });

  it('asks for everything when levels move around it', async () => {
    await edit({ level: 3 }, { level: 3 });
    expect(asked.some((path) => path.startsWith('GET /assets?filter=kind'))).toBe(true);
    expect(asked).toContain('GET /assets/top/children');
  });

  it('leaves everything as it is when it was refused', async () => {
    vi.stubGlobal('fetch', async (request: Request) => {
      asked.push(request.method);
      return new Response(JSON.stringify({ detail: 'Somebody else was quicker.' }), { status: 412 });
    });
    await store.dispatch(initiate.editAsset.initiate({ id: 'a', version: 1, change: { description: 'x' } }));
    await new Promise((resolve) => setTimeout(resolve, 20));
    expect(asked).toEqual(['PATCH']);
    expect(initiate.asset.select('a')(state()).data?.version).toBe(1);
  });
});
