import type { ChangedAsset, RunComparison } from '@idrel/contract/scanning';
import type { AssetKind } from '@idrel/contract/things';
import {
  checkDifferences,
  detailDifferences,
  type LikelyRename,
  type Part,
  type TableDetails,
  valueDifferences,
} from '@idrel/core/scanning';
import { digest, type FoundAsset, KEY_SEPARATOR, type Mark } from '@idrel/readers/connectors';

/** A table, view, file, folder … as it was found, with its columns: the unit in which a scan compares. */
export interface Unit {
  readonly holder: FoundAsset;
  readonly columns: readonly FoundAsset[];
  /** Digest of all that was read of it and its columns, in the form of a UUID. Equal digests: nothing to write. Made when first asked for: what is new is digested while it is written. */
  readonly print: string;
}

class FoundUnit implements Unit {
  readonly holder: FoundAsset;
  readonly columns: readonly FoundAsset[];
  #print: string | undefined;

  constructor(holder: FoundAsset, columns: readonly FoundAsset[]) {
    this.holder = holder;
    this.columns = columns;
  }

  get print(): string {
    this.#print ??= digest(
      [this.holder, ...this.columns].map((asset) => [
        asset.kind,
        asset.name,
        asset.native,
        asset.stats,
        asset.comment,
        asset.position,
      ]),
    );
    return this.#print;
  }
}

/** Puts columns to what holds them. */
export function toUnits(assets: readonly FoundAsset[]): Unit[] {
  const columnsOf = new Map<string, FoundAsset[]>();
  for (const asset of assets)
    if (asset.kind === 'column' && asset.parentKey !== null) {
      const list = columnsOf.get(asset.parentKey);
      if (list) list.push(asset);
      else columnsOf.set(asset.parentKey, [asset]);
    }
  return assets
    .filter((asset) => asset.kind !== 'column')
    .map((holder) => new FoundUnit(holder, columnsOf.get(holder.key) ?? []));
}

/** What is known of everything that holds columns, before a scan is written. */
export interface KnownHolder {
  readonly id: string;
  readonly key: string;
  readonly kind: AssetKind;
  readonly print: string | null;
  readonly mark: Mark | null;
  readonly gone: boolean;
}

/** What was read of an asset before, and what people wrote; loaded for units whose digest differs. */
export interface KnownAsset {
  readonly id: string;
  readonly key: string;
  readonly kind: AssetKind;
  readonly native: Record<string, unknown>;
  readonly stats: Record<string, unknown>;
  readonly comment: string | null;
  readonly description: string | null;
  readonly position: number;
  readonly gone: boolean;
}

/** The same value, the same text: keys in order, however the database stored them. */
export function canonical(value: unknown): string {
  return JSON.stringify(value, (_, inner: unknown) =>
    inner && typeof inner === 'object' && !Array.isArray(inner)
      ? Object.fromEntries(Object.entries(inner).sort(([a], [b]) => (a < b ? -1 : 1)))
      : inner,
  );
}

/** Facts of which the parts are told that differ. A column's type as such is told already where that of its own making is. */
const PARTWISE: Record<string, (from: unknown, to: unknown) => string[] | undefined> = {
  details: (from, to) => detailDifferences(from as TableDetails | undefined, to as TableDetails | undefined),
  checks: (from, to) => checkDifferences(from as Part[] | undefined, to as Part[] | undefined),
  values: (from, to) =>
    Array.isArray(from) && Array.isArray(to) ? valueDifferences(from as string[], to as string[]) : undefined,
  ofType: () => [],
};

/** What of an asset is different from the scan before, in words. */
export function differences(known: KnownAsset, found: FoundAsset): string[] {
  const keys = [...new Set([...Object.keys(known.native), ...Object.keys(found.native)])];
  const what = keys
    // Who has rights was not read by earlier versions: that it is known now is no change at the source.
    .filter((key) => !(['owner', 'rights'].includes(key) && known.native.owner === undefined))
    .filter((key) => canonical(known.native[key]) !== canonical(found.native[key]))
    .flatMap((key) => {
      const [from, to] = [known.native[key], found.native[key]];
      const told = PARTWISE[key]?.(from, to);
      if (told) return told;
      const short = (value: unknown) =>
        value === undefined ? 'none' : typeof value === 'object' ? JSON.stringify(value) : String(value);
      return ['definition', 'parts', 'references', 'arguments', 'attributes', 'image'].includes(key)
        ? key
        : `${key}: ${short(from)} → ${short(to)}`;
    });
  if ((known.comment ?? null) !== found.comment) what.push('comment');
  if (known.kind !== found.kind) what.push(`kind: ${known.kind} → ${found.kind}`);
  return what;
}

export interface SortedUnits {
  readonly fresh: Unit[];
  /** Known, and not as they were read before. */
  readonly differing: { known: KnownHolder; unit: Unit }[];
  /** Known, and as they were read before. */
  readonly same: { known: KnownHolder; unit: Unit }[];
  readonly gone: KnownHolder[];
}

/** Sorts what a scan found by what was known before. @param covers whether a key was in its scope: what was not looked for is not gone; @param unchanged keys of what is there and was not read */
export function sortUnits(
  known: readonly KnownHolder[],
  units: readonly Unit[],
  covers: (key: string) => boolean,
  unchanged: ReadonlySet<string> = new Set(),
): SortedUnits {
  const byKey = new Map(known.map((holder) => [holder.key, holder]));
  const sorted: SortedUnits = { fresh: [], differing: [], same: [], gone: [] };
  const seen = new Set<string>();
  for (const unit of units) {
    const before = byKey.get(unit.holder.key);
    if (!before) {
      sorted.fresh.push(unit);
      continue;
    }
    seen.add(before.id);
    const entry = { known: before, unit };
    (before.gone || before.print?.replaceAll('-', '') !== unit.print ? sorted.differing : sorted.same).push(entry);
  }
  for (const holder of known)
    if (!holder.gone && !seen.has(holder.id) && !unchanged.has(holder.key) && covers(holder.key))
      sorted.gone.push(holder);
  return sorted;
}

export interface Changes {
  /** New assets, in the order in which they were found. */
  readonly fresh: FoundAsset[];
  readonly changed: { readonly found: FoundAsset; readonly what: string[] }[];
  readonly back: { readonly found: FoundAsset; readonly what: string[] }[];
  readonly gone: KnownAsset[];
  /** Known assets to write again: changed, back, or with figures that always change and are not told. */
  readonly rewrite: { readonly known: KnownAsset; readonly found: FoundAsset }[];
}

/** Compares the units that differ, asset by asset. @param known what was known of them and of their columns, by key */
export function compareUnits(differing: readonly Unit[], known: ReadonlyMap<string, KnownAsset>): Changes {
  const changes: Changes = { fresh: [], changed: [], back: [], gone: [], rewrite: [] };
  const seen = new Set<string>();
  for (const unit of differing)
    for (const found of [unit.holder, ...unit.columns]) {
      seen.add(found.key);
      const before = known.get(found.key);
      if (!before) {
        changes.fresh.push(found);
        continue;
      }
      const what = differences(before, found);
      if (before.gone) changes.back.push({ found, what });
      else if (what.length > 0) changes.changed.push({ found, what });
      // The holder is written in any case: its digest differs, and its words may with its columns.
      if (
        found === unit.holder ||
        before.gone ||
        what.length > 0 ||
        before.position !== found.position ||
        canonical([before.native, before.stats]) !== canonical([found.native, found.stats])
      )
        changes.rewrite.push({ known: before, found });
    }
  for (const asset of known.values()) if (!asset.gone && !seen.has(asset.key)) changes.gone.push(asset);
  return changes;
}

export const MOST = 200;

/** Columns that come or go with what holds them are counted with it; the first {@link MOST} of the rest. */
export function folded<T extends { readonly kind: string }>(
  assets: readonly T[],
  holderOf: (asset: T) => string,
  nameOf: (asset: T) => string,
  show: (asset: T) => ChangedAsset,
): ChangedAsset[] {
  const holders = new Set(assets.filter((asset) => asset.kind !== 'column').map(nameOf));
  const columns = new Map<string, number>();
  const shown = assets.filter((asset) => {
    const holder = holderOf(asset);
    if (asset.kind !== 'column' || !holders.has(holder)) return true;
    columns.set(holder, (columns.get(holder) ?? 0) + 1);
    return false;
  });
  return shown.slice(0, MOST).map((asset) => ({
    ...show(asset),
    ...(columns.has(nameOf(asset)) ? { columns: columns.get(nameOf(asset)) } : {}),
  }));
}

/** A path as it is shown. */
export const shownPath = (key: string): string => key.split(KEY_SEPARATOR).join('.');

/** The comparison as it is stored and shown: whole counts, lists cut. */
export function toComparison(
  changes: Omit<Changes, 'rewrite'>,
  renames: readonly LikelyRename[],
  ids: ReadonlyMap<string, string>,
  first: boolean,
): RunComparison {
  const show = (key: string, kind: AssetKind, what?: string[]): ChangedAsset => ({
    id: ids.get(key) ?? '',
    path: shownPath(key),
    kind,
    ...(what && what.length > 0 ? { what } : {}),
  });
  const { fresh, changed, gone, back } = changes;
  const fold = (assets: readonly (FoundAsset | KnownAsset)[]) =>
    folded(
      assets,
      (asset) => asset.key.slice(0, asset.key.lastIndexOf(KEY_SEPARATOR)),
      (asset) => asset.key,
      (asset) => ({ ...show(asset.key, asset.kind), ...('id' in asset ? { id: asset.id } : {}) }),
    );
  const kinds = new Map([...fresh, ...gone].map((asset) => [asset.key, asset.kind]));
  return {
    first,
    counts: { new: fresh.length, changed: changed.length, gone: gone.length, back: back.length },
    new: first ? [] : fold(fresh),
    changed: changed.slice(0, MOST).map((entry) => show(entry.found.key, entry.found.kind, entry.what)),
    gone: fold(gone),
    back: back.slice(0, MOST).map((entry) => show(entry.found.key, entry.found.kind, entry.what)),
    ...(renames.length > 0
      ? {
          renames: renames.slice(0, MOST).map((rename) => ({
            from: show(rename.from, kinds.get(rename.from) ?? 'table'),
            to: show(rename.to, kinds.get(rename.to) ?? 'table'),
            score: rename.score,
            why: rename.why,
          })),
        }
      : {}),
  };
}
