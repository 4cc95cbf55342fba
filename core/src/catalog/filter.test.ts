import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type AssetFacts, type Filter, FilterError, parseFilter, passes, searchWords, writeFilter } from './index.ts';

const facts: AssetFacts = {
  kind: 'table',
  source: 'Booking system',
  domains: ['Bookings', 'Travel'],
  classes: ['email', 'phone'],
  owners: ['Tobias Marrow'],
  stewards: [],
  terms: ['Passenger'],
  level: 3,
  standing: 'reviewed',
  described: true,
  gone: false,
  words: Object.values(searchWords(['booking_leg', 'emailAddress'], ['One crossing of a Bokning'])).flat(),
};
const holds = (text: string) => passes(parseFilter(text), facts);

describe('filters', () => {
  it.each([
    ['', true],
    ['kind:table', true],
    ['kind:view', false],
    ['kind:view,table', true],
    ['domain:travel', true],
    ['domain:"Onboard sales"', false],
    ['owner:none', false],
    ['owner:any', true],
    ['steward:none', true],
    ['owner:"tobias marrow"', true],
    ['class:email level>=guarded', true],
    ['level>guarded', false],
    ['level<=guarded', true],
    ['level:none', false],
    ['not kind:view and (class:iban or class:email)', true],
    ['-kind:table', false],
    ['bookin', true],
    ['"bookin"', false],
    ['"booking"', true],
    ['crossing kind:table', true],
    ['mail', false],
    ['email_addr', true],
    ['bookingleg', true],
    ['kind:table or kind:view zebra', true],
    ['(kind:table or kind:view) zebra', false],
    ['described:yes gone:no', true],
    ['term:passenger standing:trusted', false],
  ])('%s → %s', (text, expected) => {
    expect(holds(text)).toBe(expected);
  });

  it.each([
    ['kind:', 5, 'A value is missing.'],
    ['(kind:table', 0, 'A bracket is opened and not closed.'],
    ['colour:red', 0, '"colour" is not something to filter by.'],
    ['owner>=x', 5, 'owner has no order, so >= means nothing.'],
    ['kind:"tab', 5, 'A quotation mark is opened and not closed.'],
    ['kind:table or', 13, 'Something is missing at the end.'],
    ['kind:table)', 10, '")" does not fit here.'],
  ])('says what is wrong with %s, and where', (text, position, message) => {
    const error = (() => {
      try {
        parseFilter(text);
        return undefined;
      } catch (caught) {
        return caught;
      }
    })();
    expect(error).toBeInstanceOf(FilterError);
    expect(error).toMatchObject({ message, position, mend: expect.stringMatching(/\w/) });
  });

  const leaf: fc.Arbitrary<Filter> = fc.oneof(
    fc.record({
      type: fc.constant('word' as const),
      text: fc.string({ minLength: 1, maxLength: 12 }),
      whole: fc.constant(true),
    }),
    // The beginning of a word has no quotation marks, so it can hold only what needs none.
    fc.record({
      type: fc.constant('word' as const),
      text: fc.stringMatching(/^[a-z_.#]{1,8}$/).filter((word) => !/^(and|or|not)$/.test(word)),
      whole: fc.constant(false),
    }),
    fc.record({
      type: fc.constant('is' as const),
      key: fc.constantFrom('kind', 'owner', 'domain'),
      comparison: fc.constant('=' as const),
      values: fc.array(fc.string({ minLength: 1, maxLength: 12 }), { minLength: 1, maxLength: 3 }),
    }),
  );
  const tree = fc.letrec<{ filter: Filter }>((tie) => ({
    filter: fc.oneof(
      { maxDepth: 4 },
      leaf,
      fc.record({ type: fc.constant('not' as const), of: tie('filter') }),
      fc.record({
        type: fc.constantFrom('all' as const, 'any' as const),
        of: fc.array(tie('filter'), { minLength: 2, maxLength: 3 }),
      }),
    ),
  })).filter;

  it('reads what it writes, whatever stands in the values', () => {
    fc.assert(
      fc.property(tree, (filter) => {
        expect(parseFilter(writeFilter(filter))).toEqual(filter);
      }),
      { numRuns: 500 },
    );
  });

  it('never fails in any other way than with a FilterError', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        try {
          parseFilter(text);
        } catch (error) {
          expect(error).toBeInstanceOf(FilterError);
        }
      }),
      { numRuns: 2000 },
    );
  });
});
