export { LEVELS, type Level, type LevelName } from './levels.ts';

/** What can be true of assets of a kind. */
export interface KindTraits {
  /** It holds rows with values: it can be sampled, profiled, owned for its data. */
  readonly holdsRows?: true;
  /** It has a level of its own, which rises from what it holds. */
  readonly levelled?: true;
  /** It holds others, and stands in the tree of the catalog. */
  readonly holdsOthers?: true;
  /** The gateway can read it, where it can read its source. */
  readonly queried?: true;
  /** Programs may push it. */
  readonly pushed?: true;
  /** It does something when it runs: lineage goes through it, and it is no end of an edge. */
  readonly runs?: true;
}

const table = { holdsRows: true, levelled: true, holdsOthers: true, queried: true } as const;

/**
 * The kinds of asset, from the smallest to the largest, with what is true of each. Whatever differs by kind reads it here: a list of kinds kept by hand
 * anywhere else would lack the next one.
 */
export const ASSET_KINDS = {
  column: { pushed: true },
  table: { ...table, pushed: true },
  view: { ...table, pushed: true },
  'materialised view': { ...table, pushed: true },
  'foreign table': table,
  file: { holdsRows: true, levelled: true, holdsOthers: true, pushed: true },
  'file set': { holdsRows: true, levelled: true, holdsOthers: true, pushed: true },
  folder: { levelled: true, holdsOthers: true, pushed: true },
  report: { levelled: true, pushed: true },
  dashboard: { levelled: true, pushed: true },
  schema: { levelled: true, holdsOthers: true, pushed: true },
  database: { levelled: true, pushed: true },
  application: { levelled: true, pushed: true },
  flow: { pushed: true, runs: true },
  type: { pushed: true },
  sequence: { pushed: true },
  procedure: { pushed: true, runs: true },
  function: { pushed: true, runs: true },
} as const satisfies Record<string, KindTraits>;
export type AssetKind = keyof typeof ASSET_KINDS;

type KindsWith<T extends keyof KindTraits> = {
  [K in AssetKind]: (typeof ASSET_KINDS)[K] extends { readonly [P in T]: true } ? K : never;
}[AssetKind];

/** The kinds of which something is true, in their order. */
export const kindsThat = <T extends keyof KindTraits>(trait: T): readonly KindsWith<T>[] =>
  Object.entries<KindTraits>(ASSET_KINDS).flatMap(([kind, traits]) => (traits[trait] ? [kind as KindsWith<T>] : []));

/** Whether something is true of a kind. */
export const isKindThat = (trait: keyof KindTraits, kind: AssetKind): boolean =>
  (ASSET_KINDS[kind] as KindTraits)[trait] === true;

export const isAssetKind = (kind: string): kind is AssetKind => Object.hasOwn(ASSET_KINDS, kind);
