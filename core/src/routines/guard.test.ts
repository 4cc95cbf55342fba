import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { limitOf } from './index.ts';

describe('how many changes a run may make', () => {
  it('is what was usual, so many times over; before it ran, what was seen when it was saved', () => {
    expect(limitOf({ most: null, times: 3 }, [40, 12, 7], 0)).toEqual({ most: 120, usual: true });
    expect(limitOf({ most: null, times: 3 }, [], 200)).toEqual({ most: 600, usual: true });
    expect(limitOf({ most: null, times: 3 }, [], 0)).toEqual({ most: 20, usual: true });
  });

  it('is a limit of its own where that is narrower, and none where nothing is guarded', () => {
    expect(limitOf({ most: 50, times: 3 }, [40], 0)).toEqual({ most: 50, usual: false });
    expect(limitOf({ most: 500, times: 3 }, [40], 0)).toEqual({ most: 120, usual: true });
    expect(limitOf({ most: 5, times: null }, [40], 0)).toEqual({ most: 5, usual: false });
    expect(limitOf({ most: null, times: null }, [40], 9)).toBeNull();
  });

  it('never grows with a limit, and never falls with what was changed before', () => {
    const counts = fc.array(fc.nat(5000), { maxLength: 10 });
    fc.assert(
      fc.property(
        counts,
        fc.nat(5000),
        fc.integer({ min: 1, max: 9 }),
        fc.integer({ min: 1, max: 9000 }),
        (past, more, times, most) => {
          const free = limitOf({ most: null, times }, past, 0)?.most ?? 0;
          expect(limitOf({ most, times }, past, 0)?.most).toBe(Math.min(most, free));
          expect(limitOf({ most: null, times }, [...past, more], 0)?.most).toBeGreaterThanOrEqual(free);
        },
      ),
    );
  });
});
