import fc from 'fast-check';
import { RE2JS } from 're2js';
import { describe, expect, it } from 'vitest';
import {
  compileSpec,
  compileTest,
  type DetectorSpec,
  failingExamples,
  type OwnDetector,
  proposePatterns,
  recognise,
  SpecProblem,
} from './index.ts';

const spec = (over: Partial<DetectorSpec> = {}): DetectorSpec => ({
  value: { kind: 'pattern', pattern: 'TF-\\d{4}-\\d{5}', caseless: false },
  checksum: 'none',
  namePattern: '',
  nameNeeded: false,
  minShare: 0.8,
  minDistinct: 5,
  accepts: ['TF-2026-00017'],
  rejects: ['TF-26-17'],
  ...over,
});
const own = (over: Partial<DetectorSpec> = {}): OwnDetector => ({
  id: 'own.ref',
  version: 3,
  classKey: 'own-ref',
  label: 'Booking reference',
  level: 2,
  spec: spec(over),
});
const refs = Array.from({ length: 60 }, (_, index) => `TF-2026-${String(index * 7).padStart(5, '0')}`);
const find = (detector: OwnDetector, values: (string | null)[], name = 'c1') =>
  recognise({ name, type: 'text', values }, { today: new Date('2026-05-31'), countries: [] }, [compileSpec(detector)]);

describe('a detector of the organisation', () => {
  it('claims columns as the built-in ones do, with its version, label and evidence', () => {
    expect(find(own(), refs)).toEqual([
      expect.objectContaining({
        classKey: 'own-ref',
        label: 'Booking reference',
        detector: 'own.ref',
        version: '3',
        share: 1,
        distinct: 60,
        state: 'certain',
      }),
    ]);
    expect(find(own(), [...refs.slice(0, 20), ...Array.from({ length: 20 }, (_, index) => `x${index}`)])).toEqual([]);
    expect(find(own({ minDistinct: 100 }), refs)).toEqual([]);
    expect(find(own({ nameNeeded: true, namePattern: 'ref|booking' }), refs)).toEqual([]);
    expect(find(own({ nameNeeded: true, namePattern: 'ref|booking' }), refs, 'BookingNo')).toHaveLength(1);
    // By the name alone.
    expect(
      find(
        own({ value: null, namePattern: '^secret_', minDistinct: 1, minShare: 0.5 }),
        ['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h', 'i', 'j'],
        'secret_sauce',
      ),
    ).toEqual([expect.objectContaining({ state: 'to-settle' })]);
    expect(find(own({ value: null, namePattern: '^secret_' }), ['a', 'b'], 'sauce')).toEqual([]);
  });

  it('takes lists exactly, without regard to case and marks, or with one letter wrong', () => {
    const test = (match: 'exact' | 'folded' | 'close') =>
      compileTest(spec({ value: { kind: 'list', match, values: ['Tarnholm', 'Ulvey', 'Ærø'] } }));
    expect(['Tarnholm', 'tarnholm', 'Ulvey'].map(test('exact'))).toEqual([true, false, true]);
    expect(['TARNHOLM', 'aero', 'Ulveyy'].map(test('folded'))).toEqual([true, true, false]);
    expect(['Tarnhom', 'Tarnholmm', 'Tranholm', 'Uvley', 'Kessgar', 'Tarn'].map(test('close'))).toEqual([
      true,
      true,
      true,
      true,
      false,
      false,
    ]);
  });

  it('holds a list of a million entries', () => {
    const test = compileTest(
      spec({
        value: {
          kind: 'list',
          match: 'folded',
          values: Array.from({ length: 1_000_000 }, (_, index) => `entry ${index}`),
        },
      }),
    );
    expect(['Entry 999999', 'entry 1000000'].map(test)).toEqual([true, false]);
    expect(() =>
      compileTest(spec({ value: { kind: 'list', match: 'exact', values: Array.from({ length: 1_000_001 }, String) } })),
    ).toThrow('more than 1,000,000');
  });

  it('takes ranges of numbers and days, open at either end', () => {
    const test = (of: 'number' | 'date', from: string, to: string) =>
      compileTest(spec({ value: { kind: 'range', of, from, to } }));
    expect(['4', '5', '9.5', '10', '11', 'x', ''].map(test('number', '5', '10'))).toEqual([
      false,
      true,
      true,
      true,
      false,
      false,
      false,
    ]);
    expect(['-1', '1000'].map(test('number', '', '0'))).toEqual([true, false]);
    expect(
      ['2019-12-31', '2020-01-01', '2020-06-01 12:00', 'June'].map(test('date', '2020-01-01', '2020-12-31')),
    ).toEqual([false, true, true, false]);
  });

  it.each([
    ['luhn', '4111 1111 1111 1111', '4111 1111 1111 1112'],
    ['mod97', '5493001KJTIIGC8Y1R12', '5493001KJTIIGC8Y1R13'],
    ['mod11', '1234560', '1234561'],
  ] as const)('checks digits by %s', (checksum, right, wrong) => {
    const test = compileTest(spec({ value: { kind: 'pattern', pattern: '[A-Z0-9 ]+', caseless: false }, checksum }));
    expect([test(right), test(wrong)]).toEqual([true, false]);
  });

  it.each<[string, Partial<DetectorSpec>, string, RegExp]>([
    ['an empty pattern', { value: { kind: 'pattern', pattern: ' ', caseless: false } }, 'value.pattern', /empty/],
    [
      'a pattern that cannot be read',
      { value: { kind: 'pattern', pattern: '(ab', caseless: false } },
      'value.pattern',
      /cannot be read/,
    ],
    ['a look-ahead', { value: { kind: 'pattern', pattern: '(?=a)b', caseless: false } }, 'value.pattern', /Look-ahead/],
    [
      'an endless pattern',
      { value: { kind: 'pattern', pattern: 'a'.repeat(2001), caseless: false } },
      'value.pattern',
      /longer than 2000/,
    ],
    ['an empty list', { value: { kind: 'list', values: [], match: 'exact' } }, 'value.values', /empty/],
    [
      'a range upside down',
      { value: { kind: 'range', of: 'number', from: '9', to: '1' } },
      'value.to',
      /before it begins/,
    ],
    ['a range of words', { value: { kind: 'range', of: 'date', from: 'May', to: '' } }, 'value.from', /no date/],
    ['nothing at all', { value: null }, 'namePattern', /needs a pattern for names/],
  ])('refuses %s, naming the field', (_, over, field, why) => {
    let problem: unknown;
    try {
      compileTest(spec(over));
    } catch (error) {
      problem = error;
    }
    expect(problem).toBeInstanceOf(SpecProblem);
    expect((problem as SpecProblem).field).toBe(field);
    expect((problem as SpecProblem).message).toMatch(why);
  });

  it('is not held up by patterns that take other engines for ever', () => {
    for (const pattern of ['(a+)+$', '(a|aa)+b', '([a-z]+)*1', '(x+x+)+y']) {
      const test = compileTest(spec({ value: { kind: 'pattern', pattern, caseless: false } }));
      for (const letter of ['a', 'x']) expect(test(`${letter.repeat(4000)}!`)).toBe(false);
    }
  });

  it('says which of its own examples come out wrong', () => {
    expect(failingExamples(spec())).toEqual({ taken: [], notTaken: [] });
    expect(failingExamples(spec({ accepts: ['TF-2026-00017', 'TX-1'], rejects: ['TF-2026-00018'] }))).toEqual({
      taken: ['TF-2026-00018'],
      notTaken: ['TX-1'],
    });
  });
});

describe('proposed patterns', () => {
  it('keep what never changes, and count the rest; stricter ones come first where they do as well', () => {
    const [best] = proposePatterns(refs, ['TF-26-1', 'XY-2026-00001']);
    expect(best).toEqual({
      pattern: 'TF-2026-\\d{5}',
      words: '“TF”, “-”, “2026”, “-”, 5 digits',
      matched: 60,
      missed: 0,
      wrong: 0,
    });
  });

  it('cover several shapes together, name few words, and rank what takes “is not” lower', () => {
    const is = [
      ...Array.from({ length: 20 }, (_, index) => `${['AB', 'CD'][index % 2]}${1000 + index}`),
      ...Array.from({ length: 20 }, (_, index) => `${10 + index}/x`),
    ];
    const proposals = proposePatterns(is, ['EF1000', '1000']);
    expect(proposals[0]).toMatchObject({ missed: 0, wrong: 0 });
    expect(proposals[0]?.pattern).toContain('(?:AB|CD)');
    expect(proposals.map((proposal) => proposal.wrong)).toContain(2);
    expect(proposePatterns([], ['x'])).toEqual([]);
  });

  it('always compile, and take what they say they take', () => {
    fc.assert(
      fc.property(
        fc.array(fc.string({ minLength: 1, maxLength: 12 }), { minLength: 1, maxLength: 12 }),
        fc.array(fc.string({ maxLength: 12 }), { maxLength: 6 }),
        (is, isNot) => {
          for (const { pattern, matched, missed } of proposePatterns(is, isNot)) {
            const values = [...new Set(is)];
            expect(values.filter((value) => RE2JS.compile(pattern).matches(value)).length).toBe(matched);
            expect(matched + missed).toBe(values.length);
          }
        },
      ),
      { numRuns: 200 },
    );
  });
});
