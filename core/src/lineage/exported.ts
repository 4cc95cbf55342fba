import {
  ASIDE,
  type AssetFacts,
  type Filter,
  FilterError,
  type FilterKey,
  NO_FACTS,
  parseFilter,
  passes,
  type Standing,
  showsAside,
  someLeaf,
} from '../catalog/index.ts';
import { reachable, type Step } from './reachable.ts';
import { INFLUENCE_KINDS, type InfluenceKind, VALUE_KINDS, type ValueKind } from './types.ts';

/** Of which shape the lines of an export are. */
export const EXPORT_VERSION = 1;

/** What an export tells of an asset. */
export interface ExportedAsset {
  readonly id: string;
  /** Its names from the top of its source on. */
  readonly names: readonly string[];
  readonly kind: string;
  readonly path: string;
  readonly source: string;
  /** Its own domain, and those above it. */
  readonly domains: readonly string[];
  readonly standing: Standing;
  /** 1 to 4, or null. */
  readonly level: number | null;
  /** 0 ordinary, 1 important, 2 critical. */
  readonly priority: number;
  /** The table, file or report that a column lies in; null for anything else. */
  readonly within: string | null;
  /** Its own. */
  readonly owners: readonly string[];
  /** Keys of tags, and of those with a value also both, as `key/value`. */
  readonly tags: readonly string[];
  /** Keys of data classes. */
  readonly classes: readonly string[];
}
export interface ExportedEdge {
  readonly from: string;
  readonly to: string;
  readonly kind: ValueKind | InfluenceKind;
}
/** What is downstream of a source, as a file holds it. */
export interface CatalogExport {
  readonly source: string;
  /** ISO 8601 */
  readonly at: string;
  readonly assets: readonly ExportedAsset[];
  readonly edges: readonly ExportedEdge[];
}

/** A line of an export that cannot be taken. */
export class ExportError extends Error {
  readonly line: number;
  /** @param line the first being 1 */
  constructor(message: string, line: number) {
    super(message);
    this.name = 'ExportError';
    this.line = line;
  }
}

/** An export as newline-delimited JSON: a line that says what it is, then a line for each asset and each edge. */
export function writeExport({ source, at, assets, edges }: CatalogExport): string {
  const lines = [
    { export: EXPORT_VERSION, source, at },
    ...assets.map((asset) => ({ asset })),
    ...edges.map((edge) => ({ edge })),
  ];
  return `${lines.map((line) => JSON.stringify(line)).join('\n')}\n`;
}

const isText = (value: unknown): value is string => typeof value === 'string';
const areTexts = (value: unknown): boolean => Array.isArray(value) && value.every(isText);
const KINDS: ReadonlySet<unknown> = new Set([...VALUE_KINDS, ...INFLUENCE_KINDS]);

function isAsset(value: unknown): value is ExportedAsset {
  if (typeof value !== 'object' || value === null) return false;
  const one = value as Record<keyof ExportedAsset, unknown>;
  return (
    [one.id, one.kind, one.path, one.source, one.standing].every(isText) &&
    [one.names, one.domains, one.owners, one.tags, one.classes].every(areTexts) &&
    (one.level === null || typeof one.level === 'number') &&
    typeof one.priority === 'number' &&
    (one.within === null || isText(one.within))
  );
}

/** @throws {ExportError} when it is none, or of another version, or a line of it is broken */
export function readExport(text: string): CatalogExport {
  const assets: ExportedAsset[] = [];
  const edges: ExportedEdge[] = [];
  let head: { source: string; at: string } | undefined;
  for (const [index, written] of text.split('\n').entries()) {
    if (written.trim() === '') continue;
    const line = index + 1;
    let value: Record<string, unknown> | null;
    try {
      value = JSON.parse(written);
    } catch (error) {
      throw new ExportError(`is no JSON: ${(error as Error).message}`, line);
    }
    if (head === undefined) {
      if (value?.export !== EXPORT_VERSION || !isText(value.source) || !isText(value.at))
        throw new ExportError(`does not say that an export of version ${EXPORT_VERSION} follows`, line);
      head = { source: value.source, at: value.at };
    } else if (isAsset(value?.asset)) assets.push(value.asset);
    else {
      const edge = value?.edge as ExportedEdge | undefined;
      if (!edge || !isText(edge.from) || !isText(edge.to) || !KINDS.has(edge.kind))
        throw new ExportError('is neither an asset nor an edge', line);
      edges.push(edge);
    }
  }
  if (head === undefined) throw new ExportError('is missing: the file is empty', 1);
  return { ...head, assets, edges };
}

/** What a rule can ask of an export: nothing else is in it. */
export const EXPORTED_KEYS = [
  'kind',
  'source',
  'domain',
  'class',
  'tag',
  'owner',
  'standing',
  'level',
  'priority',
  'name',
  'path',
] as const satisfies readonly FilterKey[];

/**
 * A rule as it can be asked of an export.
 * @throws {FilterError} when it cannot be read, or asks for what no export tells
 */
export function exportRule(rule: string): Filter {
  const filter = parseFilter(rule);
  someLeaf(filter, (leaf) => {
    const key = leaf.type === 'is' ? leaf.key : 'words';
    if (!(EXPORTED_KEYS as readonly string[]).includes(key))
      throw new FilterError(
        `An export does not tell what “${key}” asks for.`,
        0,
        `Ask a server, or ask for one of: ${EXPORTED_KEYS.join(', ')}.`,
      );
    return false;
  });
  return filter;
}

const factsOf = (asset: ExportedAsset): AssetFacts => ({
  ...NO_FACTS,
  kind: asset.kind,
  source: asset.source,
  domains: asset.domains,
  classes: asset.classes,
  owners: asset.owners,
  tags: asset.tags,
  level: asset.level,
  priority: asset.priority,
  standing: asset.standing,
  name: asset.names.at(-1) ?? '',
  path: asset.path,
});

/** An asset that is made of another one. */
export interface MadeOf {
  readonly asset: ExportedAsset;
  readonly within: ExportedAsset | null;
  /** Steps */
  readonly distance: number;
  /** What the last step does, or that a table feeds another. */
  readonly how: string;
  /** Its own, and those of what it lies in. */
  readonly owners: readonly string[];
  /** It, or what it lies in, is among what the rule finds. */
  readonly matches: boolean;
}

/** Asks an export what is made of something. */
export class ExportedLineage {
  readonly #assets: ReadonlyMap<string, ExportedAsset>;
  readonly #columns: readonly Step<string>[];
  readonly #tables: readonly Step<string>[];
  readonly #source: string;
  /** Assets of the source by so many of their last names. */
  readonly #byEnd = new Map<number, ReadonlyMap<string, ExportedAsset>>();

  constructor({ source, assets, edges }: CatalogExport) {
    this.#source = source;
    this.#assets = new Map(assets.map((asset) => [asset.id, asset]));
    const seen = (id: string) => this.#assets.get(id)?.within ?? id;
    const steps = edges.filter(({ kind }) => kind !== 'unused');
    this.#columns = steps.map(({ from, to, kind }) => ({ from, to, edge: kind }));
    this.#tables = steps
      .map(({ from, to }) => ({ from: seen(from), to: seen(to), edge: 'feeds' }))
      .filter(({ from, to }) => from !== to);
  }

  /** The asset of the source whose names end so; undefined where the export has none. */
  find(names: readonly string[]): ExportedAsset | undefined {
    let known = this.#byEnd.get(names.length);
    if (!known) {
      const own = [...this.#assets.values()].filter(({ source }) => source === this.#source);
      known = new Map(own.map((asset) => [JSON.stringify(asset.names.slice(-names.length)), asset]));
      this.#byEnd.set(names.length, known);
    }
    return known.get(JSON.stringify(names));
  }

  /** All that is made of an asset, nearest first: of a column what takes its values and the tables whose rows it decides. */
  madeOf(asset: ExportedAsset, rule: Filter | null): MadeOf[] {
    const steps = asset.within === null ? this.#tables : this.#columns;
    const how = new Map(steps.map(({ from, to, edge }) => [`${from}>${to}`, edge]));
    // As everywhere, columns are found only by what asks for them.
    const fits = (one: ExportedAsset | null) =>
      rule !== null && one !== null && (showsAside(rule) || !ASIDE.includes(one.kind)) && passes(rule, factsOf(one));
    return reachable(steps, asset.id, 'downstream').flatMap(({ id, distance, path }): MadeOf[] => {
      const found = this.#assets.get(id);
      // What whoever exported it may not see is gone through, and not told.
      if (!found) return [];
      const within = (found.within !== null && this.#assets.get(found.within)) || null;
      return [
        {
          asset: found,
          within,
          distance,
          how: how.get(`${path.at(-2)}>${id}`) ?? 'feeds',
          owners: [...new Set([...found.owners, ...(within?.owners ?? [])])].sort(),
          matches: fits(found) || fits(within),
        },
      ];
    });
  }
}
