import type { AssetKind } from '../things/index.ts';
/** What one run found of one asset. */
export interface RunChange {
  readonly id: string;
  readonly path: string;
  readonly kind: AssetKind;
  readonly change: 'new' | 'changed' | 'gone' | 'back';
  /** In words; `fact: before → after` where there are two values. */
  readonly what: readonly string[];
}

const STEP = /^([^:]+): (.*?) → (.*)$/s;

/** Steps of one fact become one step from its first value to its last; none when it came back to where it was. */
export function mergeSteps(what: readonly string[]): string[] {
  const steps = new Map<string, { from: string; to: string } | null>();
  for (const text of what) {
    const [, fact, from, to] = STEP.exec(text) ?? [];
    if (fact === undefined || from === undefined || to === undefined) {
      steps.set(text, null);
      continue;
    }
    steps.set(fact, { from: steps.get(fact)?.from ?? from, to });
  }
  return [...steps].flatMap(([fact, step]) =>
    step === null ? [fact] : step.from === step.to ? [] : [`${fact}: ${step.from} → ${step.to}`],
  );
}

/**
 * What is different after a sequence of runs from what was before the first of them: an asset that came and went is no difference, one that
 * changed twice is one change.
 * @param runs changes of each run, oldest run first
 */
export function composeChanges(runs: readonly (readonly RunChange[])[]): RunChange[] {
  const seen = new Map<string, { first: RunChange; last: RunChange; what: string[] }>();
  for (const change of runs.flat()) {
    const before = seen.get(change.id);
    if (before) {
      before.last = change;
      before.what.push(...change.what);
    } else seen.set(change.id, { first: change, last: change, what: [...change.what] });
  }
  return [...seen.values()].flatMap(({ first, last, what }): RunChange[] => {
    const wasThere = first.change === 'changed' || first.change === 'gone';
    const isThere = last.change !== 'gone';
    const { id, path, kind } = last;
    if (!wasThere)
      return isThere
        ? [{ id, path, kind, change: first.change, what: first.change === 'back' ? mergeSteps(what) : [] }]
        : [];
    if (!isThere) return [{ id, path, kind, change: 'gone', what: [] }];
    const merged = mergeSteps(what);
    return merged.length > 0 ? [{ id, path, kind, change: 'changed', what: merged }] : [];
  });
}
