import type { FileKind } from '@idrel/contract/scanning';
import { KINDS, type SourceKind } from '@idrel/contract/sources';
import { EVERYTHING, type Scope, scopeCover } from '@idrel/core/scanning';
import { KEY_SEPARATOR, type Structure } from '../connectors/index.ts';
import { isRead } from '../files/walk.ts';

/** The path by which scopes name what has this key: below the source's top. */
export const pathOfKey = (key: string, kind: SourceKind): string =>
  key.split(KEY_SEPARATOR).slice(1).join(KINDS[kind].separator);

export interface NotCovered {
  readonly count: number;
  readonly paths: readonly string[];
}

/** What a scope means for the keys of one kind of source. */
/** @param fileKinds kinds of files that the run reads: what lies in others is not looked for */
export function coverOf(
  scope: Scope | undefined,
  kind: SourceKind,
  fileKinds?: readonly FileKind[] | null,
): { covers: (key: string) => boolean; whole: boolean } {
  const covers = scopeCover(scope ?? EVERYTHING, KINDS[kind].separator);
  const whole = !scope || (scope.cover === 'everything' && scope.exclude.length === 0);
  if (fileKinds) {
    const all = coverOf(scope, kind);
    return { whole: all.whole, covers: (key) => isRead(nameOf(key), fileKinds) && all.covers(key) };
  }
  return { whole, covers: whole ? () => true : (key) => !key.includes(KEY_SEPARATOR) || covers(pathOfKey(key, kind)) };
}

const nameOf = (key: string) => key.slice(key.lastIndexOf(KEY_SEPARATOR) + 1);

/** Leaves of a structure what a scope covers, with what it lies in; and tells what was left out (columns not counted). */
export function cutToScope(
  structure: Structure,
  kind: SourceKind,
  covers: (key: string) => boolean,
): { structure: Structure; notCovered: NotCovered } {
  const kept = new Set<string>();
  const left: string[] = [];
  const sort = (found: string) => {
    if (!covers(found)) {
      left.push(found);
      return;
    }
    // What holds something covered comes along, so that the tree has no holes.
    for (let key = found; ; key = key.slice(0, key.lastIndexOf(KEY_SEPARATOR))) {
      kept.add(key);
      if (!key.includes(KEY_SEPARATOR)) break;
    }
  };
  for (const asset of structure.assets) if (asset.kind !== 'column') sort(asset.key);
  const unchanged = new Set<string>();
  for (const key of structure.unchanged ?? []) {
    sort(key);
    if (kept.has(key)) unchanged.add(key);
  }
  const holds = (asset: { kind: string; key: string; parentKey: string | null }) =>
    asset.kind === 'column' ? kept.has(asset.parentKey ?? '') : kept.has(asset.key);
  const notCovered = left.filter((key) => !kept.has(key)).map((key) => pathOfKey(key, kind));
  return {
    structure: {
      ...structure,
      unchanged,
      assets: structure.assets.filter(holds),
      sampleable: structure.sampleable.filter((table) => kept.has(table.key)),
    },
    notCovered: { count: notCovered.length, paths: notCovered },
  };
}
