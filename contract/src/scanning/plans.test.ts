import { describe, expect, it } from 'vitest';
import { planEndpoints, scheduleBody, scopeBody } from './plans.ts';

const schedule = (part: object) =>
  scheduleBody.validate({ rhythm: { on: 'daily' }, time: '03:00', timeZone: 'Europe/Oslo', ...part });

describe('schedules over the wire', () => {
  it.each([
    [{ on: 'once', date: '2026-05-01' }],
    [{ on: 'daily' }],
    [{ on: 'weekdays' }],
    [{ on: 'weekends' }],
    [{ on: 'days', days: [1, 7] }],
    [{ on: 'date', day: 31 }],
    [{ on: 'weekday', nth: -1, weekday: 5 }],
  ])('takes %o', (rhythm) => {
    expect(schedule({ rhythm }).error).toBeUndefined();
  });

  it.each([
    [{ on: 'hourly' }],
    [{ on: 'once' }],
    [{ on: 'once', date: '1 May' }],
    [{ on: 'days', days: [] }],
    [{ on: 'days', days: [8] }],
    [{ on: 'days', days: [1, 1] }],
    [{ on: 'date', day: 0 }],
    [{ on: 'weekday', nth: 5, weekday: 1 }],
    [{ on: 'daily', days: [1] }],
  ])('refuses %o', (rhythm) => {
    expect(schedule({ rhythm }).error).toBeDefined();
  });

  it('refuses times that are none, and says what one looks like', () => {
    for (const time of ['24:00', '3:00', '03:60', 'noon', ''])
      expect(schedule({ time }).error?.message).toMatch(/time/);
    expect(schedule({ blackouts: [{ from: '22:00' }] }).error).toBeDefined();
    expect(schedule({ blackouts: [{ from: '22:00', to: '06:00', days: [6, 7] }] }).error).toBeUndefined();
  });
});

describe('scopes over the wire', () => {
  it('fills what is left out', () => {
    expect(scopeBody.validate({ cover: 'everything' }).value).toEqual({
      cover: 'everything',
      chosen: [],
      include: [],
      exclude: [],
    });
  });

  it.each([
    [{}],
    [{ cover: 'half' }],
    [{ cover: 'chosen', chosen: ['a', 'a'] }],
    [{ cover: 'everything', exclude: [' '] }],
    [{ cover: 'everything', include: ['x'.repeat(400)] }],
  ])('refuses %o', (scope) => {
    expect(scopeBody.validate(scope).error).toBeDefined();
  });
});

describe('options over the wire', () => {
  const plan = (more: object): { value?: { options: object }; error?: Error } =>
    planEndpoints.add.body?.validate({ name: 'Nightly', scope: { cover: 'everything' }, ...more }) ?? {};
  const options = (given: object) => plan({ options: given });
  const FILLED = {
    sample: true,
    rows: 500,
    method: 'random',
    detectorSetId: null,
    profile: true,
    onlyChanged: false,
    minutes: null,
    retries: 0,
    memoryMb: null,
    fileKinds: null,
  };

  it('are filled where they are left out, each and all', () => {
    expect(options({}).value?.options).toEqual(FILLED);
    expect(plan({}).value?.options).toEqual(FILLED);
    expect(options({ ...FILLED, method: 'first', minutes: 30, retries: 5, memoryMb: 256 }).error).toBeUndefined();
  });

  it.each([
    [{ rows: 5 }],
    [{ rows: 20_000 }],
    [{ method: 'last' }],
    [{ minutes: 0 }],
    [{ retries: 6 }],
    [{ memoryMb: 32 }],
    [{ fileKinds: [] }],
    [{ fileKinds: ['pdf'] }],
    [{ detectorSetId: 'all' }],
    [{ colour: 'red' }],
  ])('refuse %o', (given) => {
    expect(options(given).error).toBeDefined();
  });
});
