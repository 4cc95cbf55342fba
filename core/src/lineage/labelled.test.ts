import { beforeAll, describe, expect, it } from 'vitest';
// @ts-expect-error a script without types
import { DIALECTS, judge, precision, readSet, recall } from '../../../bench/labelled.mjs';
import * as sql from '../sql/index.ts';
import * as lineage from './index.ts';

beforeAll(() => sql.loadParser());

describe('statements labelled by hand', () => {
  it('are at least 150, in three dialects', () => {
    const counts = DIALECTS.map((dialect: string) => readSet(dialect).cases.length);
    expect(counts).toHaveLength(3);
    expect(counts.reduce((sum: number, count: number) => sum + count, 0)).toBeGreaterThanOrEqual(150);
  });

  it.each(['postgresql', 'mariadb', 'sqlite'])('are read as they are labelled (%s)', (dialect) => {
    const { sums, differing } = judge({ ...lineage, ...sql }, dialect);
    // What is told when it fails is what differs.
    expect(differing.length, JSON.stringify(differing, null, 1)).toBeLessThanOrEqual(1);
    for (const sum of Object.values(sums)) {
      expect(precision(sum)).toBeGreaterThanOrEqual(0.98);
      expect(recall(sum)).toBeGreaterThanOrEqual(0.98);
    }
  });

  it('would be told from others: a wrong label is a miss and a mistake', () => {
    const read = judge(
      { ...lineage, ...sql, readScript: () => ({ statements: [], unresolved: [], read: 0 }) },
      'postgresql',
    );
    expect(recall(read.sums.values)).toBe(0);
  });
});
