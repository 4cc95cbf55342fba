import { describe, expect, it } from 'vitest';
// @ts-expect-error scripts without types
import { judgeAll, precision, recall } from '../../../bench/quality.mjs';

interface Counts {
  right: number;
  wrong: number;
  missed: number;
}
interface Told {
  part: string;
  way: string;
  columns: number;
  total: Counts;
  classes: Map<string, Counts>;
}

/** The goals for the part of the corpus that nothing was tuned on; the same values always, so that a change that costs quality fails here. */
describe('recognition of the labelled corpus', () => {
  const told = judgeAll(['test', 'world', 'systems']) as Told[];
  it.each([
    ['test', 'with names', 0.98, 0.95, 1000],
    ['test', 'without names', 0.95, 0.9, 1000],
    ['world', 'with names', 0.98, 0.95, 500],
    ['world', 'without names', 0.95, 0.85, 500],
    ['systems', 'with names', 0.98, 0.95, 300],
    ['systems', 'without names', 0.95, 0.85, 150],
  ])('of the part %s %s is as precise and complete as it has to be', (part, way, precise, complete, least) => {
    const { total, columns } = told.find((entry) => entry.part === part && entry.way === way) as Told;
    expect(columns).toBeGreaterThan(least);
    expect(precision(total)).toBeGreaterThanOrEqual(precise);
    expect(recall(total)).toBeGreaterThanOrEqual(complete);
  });

  it('leaves no class behind, with names or without', () => {
    const weak = told
      .filter((entry) => entry.part === 'test')
      .flatMap(({ way, classes }) =>
        [...classes]
          .filter(([, counts]) => precision(counts) < 0.85 || recall(counts) < 0.85)
          .map(([key, counts]) => ({ way, key, ...counts })),
      );
    expect(weak).toEqual([]);
  });
});
