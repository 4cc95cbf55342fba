import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Blackout, describeSchedule, nextTimes, type Rhythm, type Schedule } from './index.ts';

const at = (text: string) => Date.parse(text);
const times = (schedule: Schedule, after: string, count = 5) =>
  nextTimes(schedule, at(after), count).map((time) => new Date(time).toISOString());
const oslo = (rhythm: Rhythm, time = '02:30', blackouts?: Blackout[]): Schedule => ({
  rhythm,
  time,
  timeZone: 'Europe/Oslo',
  ...(blackouts ? { blackouts } : {}),
});

describe('the next times of a schedule', () => {
  it('keeps the hour on the wall over both changes of the clocks', () => {
    // Clocks went forward on 2026-03-29 at 02:00 and back on 2026-10-25 at 03:00.
    expect(times(oslo({ on: 'daily' }, '06:00'), '2026-03-27T12:00:00Z', 3)).toEqual([
      '2026-03-28T05:00:00.000Z',
      '2026-03-29T04:00:00.000Z',
      '2026-03-30T04:00:00.000Z',
    ]);
    expect(times(oslo({ on: 'daily' }, '06:00'), '2026-10-23T12:00:00Z', 3)).toEqual([
      '2026-10-24T04:00:00.000Z',
      '2026-10-25T05:00:00.000Z',
      '2026-10-26T05:00:00.000Z',
    ]);
  });

  it('takes an hour that is left out as much later, and one that comes twice once', () => {
    expect(times(oslo({ on: 'daily' }), '2026-03-28T12:00:00Z', 2)).toEqual([
      '2026-03-29T01:30:00.000Z',
      '2026-03-30T00:30:00.000Z',
    ]);
    expect(times(oslo({ on: 'daily' }), '2026-10-24T12:00:00Z', 2)).toEqual([
      '2026-10-25T00:30:00.000Z',
      '2026-10-26T01:30:00.000Z',
    ]);
  });

  it.each<[string, Rhythm, string[]]>([
    ['weekdays', { on: 'weekdays' }, ['2026-05-01', '2026-05-04', '2026-05-05', '2026-05-06', '2026-05-07']],
    ['weekends', { on: 'weekends' }, ['2026-05-02', '2026-05-03', '2026-05-09', '2026-05-10', '2026-05-16']],
    [
      'chosen days',
      { on: 'days', days: [2, 7] },
      ['2026-05-03', '2026-05-05', '2026-05-10', '2026-05-12', '2026-05-17'],
    ],
    [
      'a date that some months do not have',
      { on: 'date', day: 31 },
      ['2026-05-31', '2026-06-30', '2026-07-31', '2026-08-31', '2026-09-30'],
    ],
    [
      'the second Tuesday',
      { on: 'weekday', nth: 2, weekday: 2 },
      ['2026-05-12', '2026-06-09', '2026-07-14', '2026-08-11', '2026-09-08'],
    ],
    [
      'the last Friday',
      { on: 'weekday', nth: -1, weekday: 5 },
      ['2026-05-29', '2026-06-26', '2026-07-31', '2026-08-28', '2026-09-25'],
    ],
    ['once', { on: 'once', date: '2026-06-03' }, ['2026-06-03']],
    ['once, in many years', { on: 'once', date: '2099-12-31' }, ['2099-12-31']],
    ['once, in the past', { on: 'once', date: '2026-04-03' }, []],
  ])('%s', (_, rhythm, days) => {
    expect(times(oslo(rhythm, '12:00'), '2026-04-30T23:00:00Z').map((time) => time.slice(0, 10))).toEqual(days);
  });

  it('moves out of blackout hours, also over midnight and from one into the next', () => {
    const hours: Blackout[] = [
      { from: '22:00', to: '03:00', days: [5] },
      { from: '03:00', to: '04:15' },
    ];
    // 2026-05-01 is a Friday: its night reaches into Saturday.
    expect(times(oslo({ on: 'daily' }, '01:00', hours), '2026-05-01T20:00:00Z', 2)).toEqual([
      '2026-05-02T02:15:00.000Z',
      '2026-05-02T23:00:00.000Z',
    ]);
  });

  it('has no time when blackouts leave no room', () => {
    expect(times(oslo({ on: 'daily' }, '01:00', [{ from: '00:00', to: '00:00' }]), '2026-05-01T20:00:00Z')).toEqual([]);
  });

  it('refuses what is no time and no zone', () => {
    expect(() => times(oslo({ on: 'daily' }, '25:00'), '2026-05-01T20:00:00Z')).toThrow(RangeError);
    expect(() => nextTimes({ rhythm: { on: 'daily' }, time: '01:00', timeZone: 'Tarnholm/Ulvey' }, 0, 1)).toThrow(
      RangeError,
    );
    expect(() => times(oslo({ on: 'once', date: '2026-02-31' }), '2026-01-01T00:00:00Z')).toThrow(RangeError);
  });

  it('always goes forward, whatever the zone and the moment', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(
          'Europe/Oslo',
          'America/St_Johns',
          'Australia/Lord_Howe',
          'Africa/Casablanca',
          'Pacific/Apia',
          'UTC',
        ),
        fc.integer({ min: 0, max: 23 }),
        fc.integer({ min: 0, max: 59 }),
        fc.date({ min: new Date('2010-01-01'), max: new Date('2035-01-01'), noInvalidDate: true }),
        (timeZone, hour, minute, after) => {
          const schedule: Schedule = {
            rhythm: { on: 'daily' },
            time: `${String(hour).padStart(2, '0')}:${String(minute).padStart(2, '0')}`,
            timeZone,
          };
          const list = nextTimes(schedule, after.getTime(), 4);
          expect(list).toHaveLength(4);
          list.forEach((time, index) => {
            const gap = time - (list[index - 1] ?? after.getTime());
            expect(gap).toBeGreaterThan(0);
            expect(gap).toBeLessThan(49.1 * 3_600_000); // Apia once left out a whole day
          });
        },
      ),
      { numRuns: 150 },
    );
  });
});

describe('a schedule as a sentence', () => {
  it.each<[Schedule, string]>([
    [oslo({ on: 'weekdays' }), 'Monday to Friday at 02:30 (Europe/Oslo)'],
    [oslo({ on: 'weekday', nth: 2, weekday: 2 }), 'on the second Tuesday of each month at 02:30 (Europe/Oslo)'],
    [oslo({ on: 'date', day: 22 }), 'on the 22nd of each month at 02:30 (Europe/Oslo)'],
    [
      oslo({ on: 'days', days: [7, 1] }, '02:30', [{ from: '08:00', to: '18:00', days: [1, 2] }]),
      'every Monday and Sunday at 02:30 (Europe/Oslo), never 08:00–18:00 on Monday and Tuesday',
    ],
    [oslo({ on: 'once', date: '2026-06-03' }), 'once, on 2026-06-03 at 02:30 (Europe/Oslo)'],
  ])('%#', (schedule, sentence) => {
    expect(describeSchedule(schedule)).toBe(sentence);
  });
});
