import type { Node } from '@pgsql/types';
import {
  type ColumnId,
  type InfluenceKind,
  type Influences,
  type Provenance,
  type Steps,
  VALUE_KINDS,
  type ValueKind,
} from './types.ts';

const rank = new Map(VALUE_KINDS.map((kind, index) => [kind, index]));

/** The stronger of two kinds: what is masked once stays masked whatever comes after it. */
export const stronger = (a: ValueKind, b: ValueKind): ValueKind => ((rank.get(a) ?? 0) >= (rank.get(b) ?? 0) ? a : b);

/** Of several ways to one end the one that passes most on comes last: who is protected by a mask on one way is not, where another goes around it. */
const PASSES: readonly ValueKind[] = ['masked', 'copied', 'transformed', 'aggregated'];
/** How much a kind counts among several ways: it only grows as ways are added. */
export const passing = (kind: ValueKind): number => PASSES.indexOf(kind);
/** What happens to a value that can come by either of two ways. */
export const either = (a: ValueKind, b: ValueKind): ValueKind => (passing(a) >= passing(b) ? a : b);

const none: ReadonlyMap<never, never> = new Map<never, never>();

/** Nothing read: a constant. */
export const nothing: Provenance = { values: none, influences: none };

/** One base column, passed on as it is. */
export const baseColumn = (id: ColumnId): Provenance => ({
  values: new Map([[id, 'copied' as const]]),
  influences: none,
});

function mergeValues(
  into: Map<ColumnId, ValueKind>,
  steps: Map<ColumnId, Steps>,
  { values, steps: own }: Provenance,
  atLeast: ValueKind,
): void {
  for (const [id, kind] of values) {
    const applied = stronger(kind, atLeast);
    const known = into.get(id);
    const kept = either(known ?? applied, applied);
    into.set(id, kept);
    // Of several ways that which counts is told.
    if (known === kept) continue;
    const these = own?.get(id);
    if (these) steps.set(id, these);
    else steps.delete(id);
  }
}

/** A name alone: the value comes as it is. */
const isName = (node: Node): boolean => 'ColumnRef' in node;

/** Notes by which expression values come out of a query, or into a column: what is more than a name is one more step on their way. */
export function through(provenance: Provenance, node: Node | undefined): Provenance {
  if (!node || isName(node) || provenance.values.size === 0) return provenance;
  const steps = new Map(provenance.steps);
  for (const [id, kind] of provenance.values) {
    const known = steps.get(id) ?? [];
    // A query that reads itself is gone through again and again.
    if (kind !== 'copied' && !known.includes(node)) steps.set(id, [...known, node]);
  }
  return { ...provenance, steps };
}

function mergeInfluences(into: Map<ColumnId, Set<InfluenceKind>>, influences: Influences): void {
  for (const [id, kinds] of influences) {
    const known = into.get(id);
    if (known) for (const kind of kinds) known.add(kind);
    else into.set(id, new Set(kinds));
  }
}

/**
 * Everything that several parts read, with at least the given kind applied to each value.
 *
 * A value that is masked in one part and not in another is not masked: `md5(email) || email` still holds it.
 */
export function combine(parts: readonly Provenance[], atLeast: ValueKind = 'copied'): Provenance {
  if (parts.length === 0) return nothing;
  if (parts.length === 1 && atLeast === 'copied' && parts[0]) return parts[0];
  const values = new Map<ColumnId, ValueKind>();
  const steps = new Map<ColumnId, Steps>();
  const influences = new Map<ColumnId, Set<InfluenceKind>>();
  for (const part of parts) {
    mergeValues(values, steps, part, atLeast);
    mergeInfluences(influences, part.influences);
  }
  return steps.size === 0 ? { values, influences } : { values, influences, steps };
}

/**
 * A value chosen by tests: `CASE WHEN test THEN value …`. What a test looks at is part of the value, transformed,
 * save where the values show it only masked: `CASE WHEN x IS NULL THEN '' ELSE mask(x) END` keeps the mask.
 */
export function chosen(tests: readonly Provenance[], values: readonly Provenance[]): Provenance {
  const shown = combine(values, 'transformed');
  const looked = combine(tests, 'transformed');
  const kept = new Map([...looked.values].filter(([id]) => shown.values.get(id) !== 'masked'));
  return combine([shown, { ...looked, values: kept }]);
}

/** Union of influences. */
export function combineInfluences(parts: readonly Influences[]): Influences {
  const all = new Map<ColumnId, Set<InfluenceKind>>();
  for (const part of parts) mergeInfluences(all, part);
  return all;
}

/** What an expression does when it only decides rows: each of its values becomes an influence of that kind. */
export function asInfluence(part: Provenance, kind: InfluenceKind): Influences {
  const all = new Map<ColumnId, Set<InfluenceKind>>();
  mergeInfluences(all, part.influences);
  for (const id of part.values.keys()) {
    const known = all.get(id);
    if (known) known.add(kind);
    else all.set(id, new Set([kind]));
  }
  return all;
}

/** True when both read the same columns in the same ways (used to find the fixpoint of recursive queries). */
export function sameProvenance(a: Provenance, b: Provenance): boolean {
  if (a.values.size !== b.values.size || a.influences.size !== b.influences.size) return false;
  for (const [id, kind] of a.values) if (b.values.get(id) !== kind) return false;
  for (const [id, kinds] of a.influences) if (b.influences.get(id)?.size !== kinds.size) return false;
  return true;
}
