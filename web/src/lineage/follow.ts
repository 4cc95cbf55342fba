import type { LineageAnswer } from '@idrel/contract/lineage';
import { reachable, type Step } from '@idrel/core/lineage/reachable';

/** Columns on the way of one column, up and down, itself included. */
export function wayOf(answer: LineageAnswer, column: string): Set<string> {
  const steps: Step<null>[] = answer.links
    .filter(({ wrong }) => !wrong)
    .map((link) => ({ from: link.from, to: link.to, edge: null }));
  return new Set([
    column,
    ...reachable(steps, column, 'upstream').map((entry) => entry.id),
    ...reachable(steps, column, 'downstream').map((entry) => entry.id),
  ]);
}
