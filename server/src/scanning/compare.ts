import type { ChangedAsset, RunComparison } from '@idrel/contract/scanning';
import { type FoundAsset, KEY_SEPARATOR } from '../connectors/index.ts';

export interface KnownAsset {
  readonly id: string;
  readonly key: string;
  readonly kind: string;
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
    inner && typeof inner === 'object' && !Array.isArray(inner) ? Object.fromEntries(Object.entries(inner).sort(([a], [b]) => (a < b ? -1 : 1))) : inner,
  );
}

/** What of an asset is different from the scan before, in words. */
export function differences(known: KnownAsset, found: FoundAsset): string[] {
  const keys = [...new Set([...Object.keys(known.native), ...Object.keys(found.native)])];
  const what = keys
    .filter((key) => canonical(known.native[key]) !== canonical(found.native[key]))
    .map((key) => {
      const [from, to] = [known.native[key], found.native[key]];
      const short = (value: unknown) => (value === undefined ? 'none' : typeof value === 'object' ? JSON.stringify(value) : String(value));
      return ['definition', 'parts', 'references'].includes(key) ? key : `${key}: ${short(from)} → ${short(to)}`;
    });
  if ((known.comment ?? null) !== found.comment) what.push('comment');
  if (known.kind !== found.kind) what.push(`kind: ${known.kind} → ${found.kind}`);
  return what;
}

export interface Sorted {
  readonly fresh: FoundAsset[];
  readonly changed: { known: KnownAsset; found: FoundAsset; what: string[] }[];
  /** Only figures that always change differ: stored, and not told. */
  readonly refreshed: { known: KnownAsset; found: FoundAsset }[];
  readonly gone: KnownAsset[];
  readonly back: { known: KnownAsset; found: FoundAsset; what: string[] }[];
}

/** Sorts what a scan found by what was known before. */
export function sortFound(known: ReadonlyMap<string, KnownAsset>, found: readonly FoundAsset[]): Sorted {
  const sorted: Sorted = { fresh: [], changed: [], refreshed: [], gone: [], back: [] };
  const seen = new Set<string>();
  for (const asset of found) {
    seen.add(asset.key);
    const before = known.get(asset.key);
    if (!before) {
      sorted.fresh.push(asset);
      continue;
    }
    const what = differences(before, asset);
    if (before.gone) sorted.back.push({ known: before, found: asset, what });
    else if (what.length > 0) sorted.changed.push({ known: before, found: asset, what });
    else if (before.position !== asset.position || canonical(before.stats) !== canonical(asset.stats)) sorted.refreshed.push({ known: before, found: asset });
  }
  for (const asset of known.values()) if (!asset.gone && !seen.has(asset.key)) sorted.gone.push(asset);
  return sorted;
}

const MOST = 200;
const pathOf = (key: string) => key.split(KEY_SEPARATOR).join('.');

/** The comparison as it is stored and shown: whole counts, lists cut. */
export function toComparison(sorted: Sorted, ids: ReadonlyMap<string, string>, first: boolean): RunComparison {
  const show = (key: string, kind: string, what?: string[]): ChangedAsset => ({ id: ids.get(key) ?? '', path: pathOf(key), kind, ...(what && what.length > 0 ? { what } : {}) });
  return {
    first,
    counts: { new: sorted.fresh.length, changed: sorted.changed.length, gone: sorted.gone.length, back: sorted.back.length },
    new: first ? [] : sorted.fresh.slice(0, MOST).map((asset) => show(asset.key, asset.kind)),
    changed: sorted.changed.slice(0, MOST).map((entry) => show(entry.found.key, entry.found.kind, entry.what)),
    gone: sorted.gone.slice(0, MOST).map((asset) => show(asset.key, asset.kind)),
    back: sorted.back.slice(0, MOST).map((entry) => show(entry.found.key, entry.found.kind, entry.what)),
  };
}
