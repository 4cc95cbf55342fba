import { profileOf } from '@idrel/core/scanning/profile';
import { describe, expect, it } from 'vitest';
import { basis, extent, figure, stepsOf } from './profileWords.ts';

const numbers = profileOf(['1', '2.5', '100000'], 'number', true);
const days = profileOf(['2026-01-01', '2026-03-01'], 'time', false);
const hours = profileOf(['2026-01-01 10:00:00', '2026-01-01 12:30:00'], 'time', true);

describe('a profile in words', () => {
  it('says figures as exactly as they ask for', () => {
    expect([
      figure(1234.567, numbers),
      figure(2.5, numbers),
      figure(0.00001, numbers),
      figure(2e16, numbers),
      figure(0, numbers),
    ]).toEqual(['1,235', '2.5', '1.000e-5', '2.000e+16', '0']);
    expect([figure(1_767_225_600, days), figure(1_767_261_600, hours), figure(9e15, days)]).toEqual([
      '2026-01-01',
      '2026-01-01 10:00',
      '9.000e+15',
    ]);
  });

  it('says from where to where', () => {
    expect([extent(numbers), extent(days), extent(hours)]).toEqual([
      '1 … 100,000',
      '2026-01-01 … 2026-03-01',
      '2026-01-01 10:00 … 2026-01-01 12:30',
    ]);
    expect(extent(profileOf(['b', 'a'], 'text', true))).toBe('a … b');
    expect(extent(profileOf(['a'.repeat(40)], 'text', true))).toBe(`${'a'.repeat(23)}…`);
    expect(extent(profileOf([null], 'text', true))).toBe('');
  });

  it('names each step of the histogram', () => {
    const steps = stepsOf(profileOf(['0', '100', '100'], 'number', true));
    expect([steps.length, steps[0], steps[19]]).toEqual([
      20,
      { label: '0 to 5', rows: 1 },
      { label: '95 to 100', rows: 2 },
    ]);
    expect(stepsOf(profileOf(['x'], 'text', true))).toEqual([]);
  });

  it('says what it rests on', () => {
    expect([basis(numbers), basis(days)]).toEqual(['all 3 rows', 'a random sample of 2 rows']);
  });
});
