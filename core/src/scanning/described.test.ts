import { describe, expect, it } from 'vitest';
import { checkDifferences, detailDifferences, valueDifferences } from './described.ts';

const index = { name: 'fare_day', definition: 'CREATE INDEX fare_day ON sales.fare (day)', columns: ['day'] };

describe('differences of what a table has beside its columns', () => {
  it('names each part that is new, changed, gone, or only said to be something else', () => {
    const before = {
      indexes: [index, { ...index, name: 'fare_old' }],
      checks: [{ name: 'positive', definition: 'CHECK (price > 0)' }],
      triggers: [{ name: 'noted', definition: 'T' }],
    };
    const after = {
      indexes: [{ ...index, unique: true as const }],
      checks: [{ name: 'positive', definition: 'CHECK (price > 0)', comment: 'No refunds here' }],
      triggers: [{ name: 'noted', definition: 'T', off: true as const }],
      rules: [{ name: 'kept', definition: 'R' }],
    };
    expect(detailDifferences(before, after)).toEqual([
      'index fare_day: changed',
      'index fare_old: gone',
      'check positive: comment',
      'trigger noted: no longer holds',
      'rule kept: new',
    ]);
    expect(detailDifferences(after, before)).toContain('trigger noted: holds again');
    expect(detailDifferences(after, after)).toEqual([]);
  });

  it('tells no change where nothing was read before, and all of them where everything went', () => {
    expect(detailDifferences(undefined, { indexes: [index] })).toEqual([]);
    expect(detailDifferences({ indexes: [index], inherits: ['sales.part'] }, undefined)).toEqual([
      'index fare_day: gone',
      'inherits: sales.part → nothing',
    ]);
  });

  it('tells the values of an enumeration by themselves, and their order only where nothing else changed', () => {
    expect(valueDifferences(['open', 'shut'], ['open', 'closed', 'shut'])).toEqual(['value closed: new']);
    expect(valueDifferences(['open', 'shut'], ['open'])).toEqual(['value shut: gone']);
    expect(valueDifferences(['open', 'shut'], ['shut', 'open'])).toEqual(['order of the values']);
    expect(valueDifferences(['open'], ['open'])).toEqual([]);
    expect(checkDifferences([{ name: 'short', definition: 'a' }], [{ name: 'short', definition: 'b' }])).toEqual([
      'check short: changed',
    ]);
  });
});
