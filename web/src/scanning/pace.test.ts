import { describe, expect, it } from 'vitest';
import { ratesOf, remaining, span } from './pace.ts';

describe('the pace of a run', () => {
  it('is what was sampled between two moments', () => {
    expect(
      ratesOf([
        [0, 0, 0],
        [1, 10, 0],
        [2, 10, 4],
        [4, 10, 12],
        [4, 10, 12],
      ]),
    ).toEqual([
      { seconds: 1, rate: 0 },
      { seconds: 2, rate: 4 },
      { seconds: 4, rate: 4 },
    ]);
  });

  it('is that of the structure when nothing is sampled', () => {
    expect(
      ratesOf([
        [0, 0, 0],
        [2, 500, 0],
      ]),
    ).toEqual([{ seconds: 2, rate: 250 }]);
    expect(ratesOf([])).toEqual([]);
  });

  it('tells what is left from the last ten seconds, and nothing when it cannot', () => {
    const pace = [
      [0, 0, 0],
      [5, 100, 50],
      [20, 100, 51],
      [30, 100, 61],
    ] as const;
    expect(remaining(pace, { sampled: 61, toSample: 81 })).toEqual({ rate: 1, seconds: 20 });
    expect(remaining([[3, 100, 0]], { toSample: 10 })).toBeUndefined();
    expect(remaining([[3, 100, 5]], { toSample: 10, sampled: 5 })).toBeUndefined();
    expect(remaining(pace, {})).toBeUndefined();
  });

  it.each([
    [0.2, 'less than a second'],
    [40, '40 s'],
    [89.6, '90 s'],
    [150, '3 min'],
    [7800, '2 h 10 min'],
  ])('says %d seconds as %s', (seconds, words) => {
    expect(span(seconds)).toBe(words);
  });
});
