import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CAUSE_KINDS, dueAgain, type Happened, inOrder, likelihood } from './causes.ts';

const NOW = Date.UTC(2026, 10, 28);
const HOUR = 3_600_000;
const happened = fc.record({
  kind: fc.constantFrom(...CAUSE_KINDS),
  at: fc.option(fc.integer({ min: NOW - 60 * 24 * HOUR, max: NOW }), { nil: null }),
  distance: fc.nat(30),
});

describe('what can be behind a wrong figure', () => {
  it('is the less likely the longer ago and the further away, and always between nothing and one', () => {
    fc.assert(
      fc.property(happened, fc.nat(20), fc.nat(20), (one, days, steps) => {
        const now = likelihood(one, NOW);
        expect(now).toBeGreaterThan(0);
        expect(now).toBeLessThanOrEqual(1);
        expect(likelihood({ ...one, distance: one.distance + steps }, NOW)).toBeLessThanOrEqual(now);
        if (one.at !== null)
          expect(likelihood({ ...one, at: one.at - days * 24 * HOUR }, NOW)).toBeLessThanOrEqual(now);
      }),
    );
  });

  it('stands in that order, whatever order it came in', () => {
    fc.assert(
      fc.property(fc.array(happened, { maxLength: 20 }), (all) => {
        const ordered = inOrder(all, NOW);
        expect(ordered).toHaveLength(all.length);
        expect(ordered.map((one) => one.likelihood)).toEqual(
          inOrder([...all].reverse(), NOW).map((one) => one.likelihood),
        );
        for (const [at, one] of ordered.entries())
          expect(one.likelihood).toBeGreaterThanOrEqual(ordered[at + 1]?.likelihood ?? 0);
      }),
    );
  });

  it('is what failed this night beside what changed a week ago, and what is near before what is far', () => {
    const all: Happened[] = [
      { kind: 'changed', at: NOW - 7 * 24 * HOUR, distance: 1 },
      { kind: 'failed run', at: NOW - 4 * HOUR, distance: 3 },
      { kind: 'failed run', at: NOW - 4 * HOUR, distance: 1 },
      { kind: 'notice', at: null, distance: 1 },
    ];
    expect(inOrder(all, NOW).map(({ kind, distance }) => `${kind} ${distance}`)).toEqual([
      'failed run 1',
      'failed run 3',
      'notice 1',
      'changed 1',
    ]);
  });
});

describe('when a flow should have run again', () => {
  const nightly = Array.from({ length: 10 }, (_, back) => NOW - back * 24 * HOUR + (back % 3) * HOUR);

  it('is told by the rhythm of its ends, with as much grace', () => {
    expect(((dueAgain(nightly) ?? 0) - NOW) / HOUR).toBeCloseTo(48, -1);
    expect(dueAgain([...nightly].reverse())).toBe(dueAgain(nightly));
  });

  it('cannot be told of few ends, or of such as keep no rhythm', () => {
    expect(dueAgain(nightly.slice(0, 3))).toBeNull();
    expect(dueAgain([])).toBeNull();
    expect(dueAgain([0, 1, 50, 52, 400, 401, 9000].map((hours) => NOW - hours * HOUR))).toBeNull();
    expect(dueAgain([NOW, NOW, NOW, NOW, NOW])).toBeNull();
  });
});
