import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { guardProfile, measureOf, PROFILE_BUCKETS, patternOf, profileOf } from './profile.ts';

describe('a profile', () => {
  it('counts, measures and orders a text', () => {
    const profile = profileOf(['NO', 'no', null, 'NO', 'Dk1'], 'text', true);
    expect(profile).toMatchObject({
      rows: 5,
      whole: true,
      nulls: 1,
      distinct: 3,
      length: { min: 2, max: 3, mean: 2.25 },
      first: 'Dk1',
      last: 'no',
      span: null,
      histogram: null,
    });
    expect(profile.frequent).toEqual([['NO', 2]]);
    expect(profile.patterns).toEqual([
      ['A', 2],
      ['Aa9', 1],
      ['a', 1],
    ]);
  });

  it('spreads numbers over equal steps, and says below what each share lies', () => {
    const values = Array.from({ length: 100 }, (_, index) => String(index + 1));
    const profile = profileOf(values, 'number', false);
    expect(profile.span).toEqual({ from: 1, to: 100, mean: 50.5 });
    expect(profile.quantiles).toEqual([5, 25, 50, 75, 95]);
    expect(profile.histogram).toEqual(new Array(20).fill(5));
    expect([profile.whole, profile.patterns]).toEqual([false, []]);
  });

  it('reads times as seconds, UTC unless they say otherwise', () => {
    const profile = profileOf(['1970-01-02', '1970-01-01 00:00:10', '1970-01-01 01:00:20+01'], 'time', true);
    expect(profile.span).toMatchObject({ from: 10, to: 86_400 });
    expect(profile.quantiles?.[2]).toBe(20);
  });

  it('leaves out what is no number, and survives nothing at all and one value alone', () => {
    expect(profileOf(['7', 'seven', 'NaN', ''], 'number', true)).toMatchObject({
      span: { from: 7, to: 7, mean: 7 },
      distinct: 4,
    });
    expect(profileOf([], 'number', true)).toMatchObject({
      rows: 0,
      nulls: 0,
      distinct: 0,
      length: null,
      span: null,
      quantiles: null,
      histogram: null,
    });
    expect(profileOf([null, null], 'text', true)).toMatchObject({ rows: 2, nulls: 2, first: null, frequent: [] });
    expect(profileOf(['3', '3'], 'number', true).histogram).toEqual([2, ...new Array(19).fill(0)]);
  });

  it('always accounts for every row, whatever the values', () => {
    fc.assert(
      fc.property(
        fc.array(fc.option(fc.double({ noNaN: true, min: -1e300, max: 1e300 }).map(String), { nil: null }), {
          maxLength: 200,
        }),
        (values) => {
          const profile = profileOf(values, 'number', true);
          const present = values.filter((value) => value !== null).length;
          expect(profile.nulls + present).toBe(values.length);
          expect((profile.histogram ?? []).reduce((sum, n) => sum + n, 0)).toBe(present);
          if (profile.quantiles) expect([...profile.quantiles].sort((a, b) => a - b)).toEqual(profile.quantiles);
          if (profile.histogram) expect(profile.histogram).toHaveLength(PROFILE_BUCKETS);
        },
      ),
    );
  });

  it('keeps no value of a guarded column', () => {
    fc.assert(
      fc.property(
        fc.array(fc.string({ minLength: 12, maxLength: 30, unit: fc.constantFrom(...'abcdefXYZ0123456789') }), {
          minLength: 1,
          maxLength: 20,
        }),
        (values) => {
          const kept = JSON.stringify(guardProfile(profileOf(values, 'text', true)));
          for (const value of values) if (patternOf(value) !== value) expect(kept).not.toContain(value);
        },
      ),
    );
    expect(guardProfile(profileOf(['1', '900'], 'number', true))).toMatchObject({
      guarded: true,
      rows: 2,
      distinct: 2,
      span: null,
      quantiles: null,
      frequent: [],
      histogram: null,
    });
  });

  it('knows what types measure', () => {
    const of = (measure: string, types: string[]) =>
      expect(types.map((type) => [type, measureOf(type)])).toEqual(types.map((type) => [type, measure]));
    of('number', [
      'integer',
      'bigint',
      'smallint',
      'numeric(10,2)',
      'double precision',
      'real',
      'int(11)',
      'int unsigned',
      'tinyint',
      'hugeint',
      'decimal(18,3)',
      'int4',
      'bigserial',
      'DOUBLE',
      'FLOAT',
    ]);
    of('time', ['date', 'timestamp with time zone', 'timestamp', 'datetime', 'TIMESTAMP_S']);
    of('text', [
      'text',
      'character varying(20)',
      'interval',
      'boolean',
      'tinyint(1)',
      'integer[]',
      'uuid',
      'json',
      'point',
      'time',
      'inet',
    ]);
  });
});
