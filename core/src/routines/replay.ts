import { type Filter, meaningOf, meantTogether } from '../catalog/index.ts';

/** A condition or a word of a filter. */
export type Leaf = Extract<Filter, { type: 'is' | 'word' }>;

/** A filter with each of its conditions once: what says in short what others say is said in full. */
export interface Conditions {
  readonly filter: Filter;
  readonly leaves: readonly Leaf[];
}

export function conditionsOf(filter: Filter): Conditions {
  const leaves: Leaf[] = [];
  const known = new Map<string, Leaf>();
  const inFull = (part: Filter): Filter => {
    switch (part.type) {
      case 'all':
        return { type: 'all', of: meantTogether(part.of).map(inFull) };
      case 'any':
        return { type: 'any', of: part.of.map(inFull) };
      case 'not':
        return { type: 'not', of: inFull(part.of) };
      default: {
        const meant = part.type === 'is' ? meaningOf(part) : undefined;
        if (meant) return inFull(meant);
        const same = known.get(JSON.stringify(part));
        if (same) return same;
        known.set(JSON.stringify(part), part);
        leaves.push(part);
        return part;
      }
    }
  };
  return { filter: inFull(filter), leaves };
}

/** Whether a filter holds where each of its conditions does or does not, told by their place among its leaves. */
export function holderOf({ filter, leaves }: Conditions): (truths: (leaf: number) => boolean) => boolean {
  const at = new Map<Filter, number>(leaves.map((leaf, index) => [leaf, index]));
  const holds = (part: Filter, truths: (leaf: number) => boolean): boolean => {
    switch (part.type) {
      case 'all':
        return part.of.every((one) => holds(one, truths));
      case 'any':
        return part.of.some((one) => holds(one, truths));
      case 'not':
        return !holds(part.of, truths);
      default:
        return truths(at.get(part) ?? -1);
    }
  };
  return (truths) => holds(filter, truths);
}

/** What a condition was before a moment, milliseconds since 1970. */
export interface Was {
  readonly at: number;
  readonly truth: boolean;
}

/**
 * What a condition was at each of some moments, by what it is now and what it was before each change of it.
 * @param ends moments, in their order
 */
export function backwards(now: boolean, changes: readonly Was[], ends: readonly number[]): boolean[] {
  const newest = [...changes].sort((one, other) => other.at - one.at);
  const truths: boolean[] = [];
  let next = 0;
  let truth = now;
  for (const end of [...ends].reverse()) {
    for (let change = newest[next]; change && change.at > end; change = newest[next]) {
      truth = change.truth;
      next += 1;
    }
    truths.push(truth);
  }
  return truths.reverse();
}

/** An asset on each of some days: whether it was there and gone, each condition of the search, and whether it already was as the routine wants it. */
export interface Lived {
  readonly there: readonly boolean[];
  readonly leaves: readonly (readonly boolean[])[];
  readonly same: readonly boolean[];
}
/** What a routine would have found on a day, and changed for the first time. */
export interface DayOfRoutine {
  readonly found: number;
  readonly changed: number;
}

/** What a routine would have done day by day, had it run each day: what it would have changed once, it does not change again. */
export function replay(conditions: Conditions, assets: readonly Lived[], days: number): DayOfRoutine[] {
  const holds = holderOf(conditions);
  const told = Array.from({ length: days }, () => ({ found: 0, changed: 0 }));
  for (const { there, leaves, same } of assets) {
    let done = false;
    for (const [day, counts] of told.entries()) {
      if (!there[day] || !holds((leaf) => leaves[leaf]?.[day] ?? false)) continue;
      counts.found += 1;
      if (done || same[day]) continue;
      done = true;
      counts.changed += 1;
    }
  }
  return told;
}
