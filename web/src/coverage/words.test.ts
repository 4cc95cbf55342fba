import type { Target } from '@idrel/contract/coverage';
import { describe, expect, it } from 'vitest';
import { points } from './OverTime.tsx';
import { costOf } from './Room.tsx';
import { courseInWords } from './Targets.tsx';

const target: Target = {
  id: 't',
  domainId: 'd',
  domain: 'Travel',
  measure: 'owned',
  share: 0.8,
  byDay: '2027-01-31',
  since: '2026-10-01',
  madeBy: null,
  state: 'on course',
  now: 0.6,
  due: 0.55,
  assets: 10,
  pace: 0.1,
  reachedOn: '2027-01-29',
  filter: '',
  mayChange: true,
  version: 1,
};

describe('how a target goes', () => {
  it.each([
    [{}, '20.0 points to go; at the pace of the last 30 days it is reached on 29 Jan 2027'],
    [
      { state: 'behind', reachedOn: '2027-03-01' },
      '20.0 points to go; 55 % would be due today; at the pace of the last 30 days it is reached on 1 Mar 2027, too late',
    ],
    [
      { state: 'behind', reachedOn: null, pace: 0 },
      '20.0 points to go; 55 % would be due today; at the pace of the last 30 days it is not reached',
    ],
    [{ pace: null, reachedOn: null }, '20.0 points to go; its pace is not known yet'],
    [{ state: 'missed' }, 'its day is over, 20.0 points to go'],
    [{ state: 'met', now: 0.8 }, 'reached'],
  ] as const)('%o', (more, words) => {
    expect(courseInWords({ ...target, ...more })).toBe(words);
  });
});

describe('differences and costs', () => {
  it('are told in points, and in the currency', () => {
    expect([points(0.5, 0.5), points(0.5, 0.625), points(0.5, 0.4)]).toEqual([
      'as then',
      '+12.5 points',
      '−10.0 points',
    ]);
    const price = { price: 0.2, currency: 'EUR' };
    expect([costOf(5e12, price), costOf(30e9, price), costOf(0, price), costOf(1e6, price)]).toEqual([
      '€1,000',
      '€6.00',
      '€0',
      'under €0.01',
    ]);
    expect(costOf(5e12, { price: null, currency: 'EUR' })).toBe('');
  });
});
