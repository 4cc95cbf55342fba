import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { aimOf, courseOf, sampled } from './index.ts';

describe('days', () => {
  it('are each of them where they are few, and evenly apart with the last where they are many', () => {
    expect(sampled('2026-11-28', '2026-12-01', 10)).toEqual(['2026-11-28', '2026-11-29', '2026-11-30', '2026-12-01']);
    expect(sampled('2026-11-28', '2026-11-28', 10)).toEqual(['2026-11-28']);
    expect(sampled('2026-11-29', '2026-11-28', 10)).toEqual([]);
    // Over a change of clocks, and a leap day.
    expect(sampled('2028-02-27', '2028-03-02', 3)).toEqual(['2028-02-27', '2028-02-29', '2028-03-02']);
  });
  it('never are more than asked for, and end with the last', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2000 }), fc.integer({ min: 2, max: 120 }), (length, most) => {
        const last = '2026-11-30';
        const first = new Date(Date.parse(last) - length * 86_400_000).toISOString().slice(0, 10);
        const days = sampled(first, last, most);
        expect(days.length).toBeLessThanOrEqual(most);
        expect(days.at(-1)).toBe(last);
        expect((days[0] as string) >= first).toBe(true);
      }),
    );
  });
});

describe('the course of figures', () => {
  it('is what they changed by, added up, day by day', () => {
    const course = courseOf(
      [
        { key: 'b', day: '2026-11-03', by: [-1, 0] },
        { key: 'a', day: '2026-11-01', by: [5, 1] },
        { key: 'a', day: '2026-11-03', by: [2, -1] },
        { key: 'b', day: '2026-11-01', by: [1, 1] },
      ],
      ['2026-11-01', '2026-11-02', '2026-11-03'],
      2,
    );
    expect(course.get('a')).toEqual([
      [5, 1],
      [5, 1],
      [7, 0],
    ]);
    expect(course.get('b')?.map(([first]) => first)).toEqual([1, 1, 0]);
  });
});

describe('a target', () => {
  const target = { share: 0.8, since: '2026-10-01', byDay: '2026-12-30' };
  const course = (...shares: number[]) =>
    shares.map((share, nth) => ({ day: sampled('2026-10-01', '2027-01-31', 200)[nth * 30] as string, share }));
  it('is met once its share is reached, also after its day', () => {
    expect(aimOf(course(0.5, 0.8), target)).toMatchObject({ state: 'met', now: 0.8, reachedOn: null });
    expect(aimOf(course(0.5, 0.6, 0.7, 0.75, 0.81), target).state).toBe('met');
  });
  it('is on course where the straight way would be, and behind short of it', () => {
    // A third of the time is gone, and a third of the way is due.
    const aim = aimOf(course(0.5, 0.6), target);
    expect(aim.state).toBe('on course');
    expect(aim.due).toBeCloseTo(0.6);
    expect(aimOf(course(0.5, 0.59), target).state).toBe('behind');
  });
  it('is missed once its day is over', () => {
    expect(aimOf(course(0.5, 0.6, 0.7, 0.75, 0.79), target).state).toBe('missed');
  });
  it('says when it is reached at the pace of the last 30 days', () => {
    const aim = aimOf(course(0.5, 0.5, 0.6), target);
    expect(aim.pace).toBeCloseTo(0.1);
    expect(aim.reachedOn).toBe('2027-01-29');
    expect(aimOf(course(0.5, 0.6, 0.6), target)).toMatchObject({ pace: 0, reachedOn: null });
    expect(aimOf(course(0.5), target)).toMatchObject({ pace: null, reachedOn: null, state: 'on course' });
  });
  it('set for less than there is stays met', () => {
    expect(aimOf(course(0.9, 0.85), target).state).toBe('met');
  });
});
