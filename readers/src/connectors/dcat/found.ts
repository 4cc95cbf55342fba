import { type AssetKind, isAssetKind, isKindThat } from '@idrel/core/things';
import { type FoundAsset, type FoundFlow, keyOf } from '../types.ts';
import { type Graph, lastOf } from './graph.ts';

/** So many columns are read of one dataset; so deep one lies in another; so long a name may be. */
const [COLUMNS_MOST, DEEPEST, LONGEST] = [5000, 20, 200];

type Property = Parameters<Graph['text']>[1];

/** Something that the document lists, with its place. */
interface Item {
  /** By which it is told apart: its address; of a file also that of its dataset, since several can have the same one. */
  readonly id: string;
  readonly uri: string;
  readonly kind: AssetKind;
  readonly name: string;
  /** The item in which it lies; null at the top. */
  readonly within: string | null;
}

const LISTED = ['dcat:Dataset', 'dcat:DatasetSeries', 'dcat:DataService', 'dcat:Resource'] as const;

/** Everything that the document lists: catalogs below another one, datasets, services and other resources. */
function itemsOf(graph: Graph): Item[] {
  const roots = rootsOf(graph);
  const listing = new Map<string, string>();
  for (const catalog of graph.all('dcat:Catalog'))
    for (const property of ['dcat:dataset', 'dcat:service', 'dcat:resource', 'dcat:catalog'] as const)
      for (const one of graph.nodes(catalog, property)) if (!listing.has(one)) listing.set(one, catalog);
  const listed = new Set([...LISTED.flatMap((type) => graph.all(type)), ...graph.all('dcat:Catalog')]);
  for (const root of roots) listed.delete(root);
  const within = (uri: string): string | null => {
    for (const property of ['dct:isPartOf', 'dcat:inSeries'] as const)
      for (const one of graph.nodes(uri, property)) if (listed.has(one) && one !== uri) return one;
    const catalog = listing.get(uri);
    return catalog !== undefined && listed.has(catalog) && catalog !== uri ? catalog : null;
  };
  const places = new Map([...listed].map((uri) => [uri, within(uri)]));
  return [...listed].map((uri) => ({
    id: uri,
    uri,
    kind: kindOf(graph, uri),
    name: nameOf(graph, uri),
    within: isBelowItself(uri, places) ? null : (places.get(uri) ?? null),
  }));
}

/** Catalogs that no other one lists. */
function rootsOf(graph: Graph): string[] {
  const catalogs = graph.all('dcat:Catalog');
  const below = new Set(
    catalogs.flatMap((one) => [...graph.nodes(one, 'dcat:catalog'), ...graph.nodes(one, 'dcat:dataset')]),
  );
  const roots = catalogs.filter((one) => !below.has(one) && graph.nodes(one, 'dct:isPartOf').length === 0);
  return roots.length > 0 ? roots : catalogs.slice(0, 1);
}

function isBelowItself(uri: string, places: ReadonlyMap<string, string | null>): boolean {
  let [at, steps] = [places.get(uri), 0];
  for (; at && steps <= DEEPEST; steps += 1) {
    if (at === uri) return true;
    at = places.get(at);
  }
  return steps > DEEPEST;
}

/** What it is to Idrel: of its type's name where that is one of Idrel's words, of its columns, of what DCAT calls it. */
function kindOf(graph: Graph, uri: string): AssetKind {
  const [said] = graph.names(uri, 'dct:type');
  if (said !== undefined && isAssetKind(said) && isKindThat('pushed', said) && said !== 'column') return said;
  if (graph.is(uri, 'dcat:Catalog')) return 'folder';
  if (columnsOf(graph, uri).length > 0) return 'table';
  if (graph.is(uri, 'dcat:DataService')) return 'application';
  return graph.is(uri, 'dcat:Dataset') || graph.is(uri, 'dcat:DatasetSeries') ? 'file set' : 'report';
}

const cut = (name: string): string => (name.length > LONGEST ? `${name.slice(0, LONGEST - 1)}…` : name);

/** Of what lies in another, the last part of its title where that begins with the other's: `mart.fares` in `mart` is `fares`. */
function nameOf(graph: Graph, uri: string): string {
  const title = graph.text(uri, 'dct:title', 'rdfs:label', 'foaf:name');
  const holder = graph.nodes(uri, 'dct:isPartOf')[0];
  const above = holder === undefined ? undefined : graph.text(holder, 'dct:title');
  const short =
    title &&
    above &&
    title.length > above.length + 1 &&
    title.startsWith(above) &&
    /[./]/.test(title[above.length] ?? '')
      ? title.slice(above.length + 1)
      : title;
  return cut(short?.replace(/\s+/g, ' ') || lastOf(uri) || uri);
}

interface Column {
  readonly name: string;
  readonly type: string | null;
  readonly required: boolean;
  readonly primaryKey: boolean;
  readonly description: string | null;
}

/** Columns by CSVW: of the dataset itself, or of a distribution of it. */
function columnsOf(graph: Graph, uri: string): Column[] {
  const [schema] = [uri, ...graph.nodes(uri, 'dcat:distribution')].flatMap((one) =>
    graph.nodes(one, 'csvw:tableSchema'),
  );
  if (schema === undefined) return [];
  const keys = new Set(graph.values(schema, 'csvw:primaryKey').map(({ value }) => value));
  const [first] = graph.nodes(schema, 'csvw:column');
  const inOrder = first === undefined ? [] : graph.list(first, COLUMNS_MOST);
  const all = inOrder.length > 0 ? inOrder : graph.nodes(schema, 'csvw:column').slice(0, COLUMNS_MOST);
  const seen = new Set<string>();
  return all.flatMap((column): Column[] => {
    const variable = graph.text(column, 'csvw:name');
    const name = cut(graph.text(column, 'csvw:title') ?? (variable === undefined ? '' : lastOf(variable)));
    if (name === '' || seen.has(name)) return [];
    seen.add(name);
    const [datatype] = graph.values(column, 'csvw:datatype');
    const type =
      datatype === undefined
        ? undefined
        : datatype.isText
          ? datatype.value
          : (graph.text(datatype.value, 'dct:title', 'csvw:base') ??
            lastOf(graph.nodes(datatype.value, 'csvw:base')[0] ?? datatype.value));
    return [
      {
        name,
        type: type ?? null,
        required: graph.text(column, 'csvw:required') === 'true',
        primaryKey: variable !== undefined && keys.has(variable),
        description: graph.text(column, 'dct:description') ?? null,
      },
    ];
  });
}

/** Names that stand twice in one place are told apart by what their addresses end in. */
function toldApart(items: readonly Item[]): Item[] {
  const times = new Map<string, number>();
  const place = ({ within, name }: Item) => `${within ?? ''}\n${name}`;
  for (const item of items) times.set(place(item), (times.get(place(item)) ?? 0) + 1);
  const given = new Set<string>();
  return items.map((item) => {
    const apart =
      (times.get(place(item)) ?? 0) > 1 ? { ...item, name: cut(`${item.name} (${lastOf(item.uri)})`) } : item;
    let [unique, nth] = [apart, 2];
    for (; given.has(place(unique)); nth += 1) unique = { ...apart, name: `${apart.name} ${nth}` };
    given.add(place(unique));
    return unique;
  });
}

const some = (facts: Readonly<Record<string, unknown>>): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(facts).filter(([, value]) => value !== undefined && !(Array.isArray(value) && value.length === 0)),
  );

function factsOf(graph: Graph, uri: string): FoundAsset['native'] {
  const one = (...properties: Property[]) => graph.names(uri, ...properties)[0];
  return some({
    identifier: /^_:/.test(uri) ? graph.text(uri, 'dct:identifier') : uri,
    publisher: one('dct:publisher', 'dct:creator'),
    contact: one('dcat:contactPoint'),
    keywords: graph.names(uri, 'dcat:keyword').slice(0, 100),
    themes: graph.names(uri, 'dcat:theme').slice(0, 100),
    license: one('dct:license'),
    accessRights: one('dct:accessRights'),
    page: addressIn(graph, uri, 'dcat:landingPage', 'foaf:page'),
    issued: graph.text(uri, 'dct:issued'),
    languages: graph.names(uri, 'dct:language').slice(0, 20),
    address: addressIn(graph, uri, 'dcat:endpointURL'),
  });
}

/** The files of a dataset, as far as they have an address. */
function filesOf(graph: Graph, item: Item): Item[] {
  if (!isKindThat('holdsOthers', item.kind) || columnsOf(graph, item.uri).length > 0) return [];
  return graph.nodes(item.uri, 'dcat:distribution').flatMap((uri): Item[] => {
    const address = addressOf(graph, uri);
    const name = graph.text(uri, 'dct:title', 'rdfs:label') ?? (address === undefined ? undefined : lastOf(address));
    // What is had at the page of the dataset alone is no file.
    const page = addressIn(graph, item.uri, 'dcat:landingPage');
    return address === undefined || address === page
      ? []
      : [{ id: `${item.uri}\n${uri}`, uri, kind: 'file', name: cut(name || uri), within: item.uri }];
  });
}

/** An address that is said of it: as such, or as a text. */
const addressIn = (graph: Graph, uri: string, ...properties: Property[]): string | undefined =>
  properties.flatMap((property) => graph.values(uri, property)).find(({ value }) => /^[a-z][a-z0-9+.-]*:/i.test(value))
    ?.value;
const addressOf = (graph: Graph, uri: string) => addressIn(graph, uri, 'dcat:downloadURL', 'dcat:accessURL');

/** How a file is written: the last part of its media type, as in `csv` of `text/csv`. */
function formatOf(graph: Graph, uri: string): string | undefined {
  for (const property of ['dcat:mediaType', 'dct:format'] as const) {
    const [value] = graph.values(uri, property);
    if (value) return lastOf(value.value).toLowerCase().slice(0, 40);
  }
  return undefined;
}

function statsOf(graph: Graph, uri: string): FoundAsset['stats'] {
  const bytes = Number(graph.text(uri, 'dcat:byteSize'));
  const modified = graph.text(uri, 'dct:modified');
  return some({
    bytes: Number.isFinite(bytes) && bytes > 0 ? bytes : undefined,
    modified:
      modified !== undefined && !Number.isNaN(Date.parse(modified)) ? new Date(modified).toISOString() : undefined,
  });
}

/**
 * What a DCAT document lists, as assets, with what it says of where they come from.
 * @param top the name below which all of it stands
 */
export function found(
  top: string,
  graph: Graph,
  native: FoundAsset['native'],
): { readonly assets: readonly FoundAsset[]; readonly flows: readonly FoundFlow[] } {
  const listed = itemsOf(graph);
  const items = toldApart([...listed, ...listed.flatMap((item) => filesOf(graph, item))]);
  const byUri = new Map(listed.map(({ uri }, nth) => [uri, items[nth] as Item]));
  const keys = new Map<string, string>();
  const depths = new Map<string, number>();
  const keyFor = (item: Item): string => {
    const known = keys.get(item.id);
    if (known !== undefined) return known;
    const holder = item.within === null ? undefined : byUri.get(item.within);
    const key = keyOf(holder ? keyFor(holder) : keyOf(top), item.name);
    depths.set(item.id, holder ? (depths.get(holder.id) ?? 1) + 1 : 1);
    keys.set(item.id, key);
    return key;
  };
  const roots = rootsOf(graph);
  const assets: FoundAsset[] = [
    {
      key: keyOf(top),
      parentKey: null,
      kind: 'application',
      name: top,
      depth: 0,
      position: 0,
      comment: roots.length === 1 ? (graph.text(roots[0] as string, 'dct:description') ?? null) : null,
      native: { ...native, ...(roots.length === 1 ? factsOf(graph, roots[0] as string) : {}) },
      stats: {},
    },
  ];
  const flows: FoundFlow[] = [];
  for (const [position, item] of items.entries()) {
    const key = keyFor(item);
    const holder = item.within === null ? undefined : byUri.get(item.within);
    const depth = depths.get(item.id) ?? 1;
    const format = item.kind === 'file' ? formatOf(graph, item.uri) : undefined;
    const address = item.kind === 'file' ? addressOf(graph, item.uri) : undefined;
    assets.push({
      key,
      parentKey: holder ? keyFor(holder) : keyOf(top),
      kind: item.kind,
      name: item.name,
      depth,
      position,
      comment: graph.text(item.uri, 'dct:description', 'rdfs:comment') ?? null,
      native: some({ ...factsOf(graph, item.uri), ...(format ? { format } : {}), ...(address ? { address } : {}) }),
      stats: statsOf(graph, item.uri),
    });
    for (const [place, column] of columnsOf(graph, item.uri).entries())
      assets.push({
        key: keyOf(key, column.name),
        parentKey: key,
        kind: 'column',
        name: column.name,
        depth: depth + 1,
        position: place,
        comment: column.description,
        native: {
          type: column.type ?? 'not told',
          nullable: !column.required,
          ...(column.primaryKey ? { primaryKey: true } : {}),
        },
        stats: {},
      });
    const edges = [...new Set(graph.nodes(item.uri, 'prov:wasDerivedFrom'))].flatMap((from) => {
      const other = byUri.get(from);
      return other && other !== item ? [{ from: keyFor(other), to: key, kind: 'transformed' }] : [];
    });
    if (edges.length > 0)
      flows.push({ key, kind: 'derivation', origin: 'provenance', statement: '', problems: [], edges, influences: [] });
  }
  // What holds others comes before them.
  return { assets: assets.sort((a, b) => a.depth - b.depth), flows };
}

/** Whether a document lists anything. */
export const listsSomething = (graph: Graph): boolean =>
  [...LISTED, 'dcat:Catalog' as const].some((type) => graph.all(type).length > 0);

/** The next part of a document that comes in pages, as Hydra says it. */
export const nextPage = (graph: Graph): string | undefined =>
  (['hydra:next', 'hydra:nextPage'] as const)
    .flatMap((property) =>
      graph
        .all('hydra:PartialCollectionView')
        .concat(graph.all('hydra:PagedCollection'))
        .flatMap((one) => graph.values(one, property)),
    )
    .map(({ value }) => value)[0];
