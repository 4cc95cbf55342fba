import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  type AssetFacts,
  asOf,
  type Filter,
  FilterError,
  fits,
  likePattern,
  parseFilter,
  passes,
  searchWords,
  writeFilter,
} from './index.ts';

const facts: AssetFacts = {
  kind: 'table',
  source: 'Booking system',
  domains: ['Bookings', 'Travel'],
  classes: ['email', 'phone'],
  arrived: ['phone'],
  owners: ['Tobias Marrow'],
  stewards: [],
  custodians: ['Rafe Quillon'],
  experts: [],
  terms: ['Passenger'],
  tags: ['pilot', 'retention', 'retention/7 years'],
  came: ['retention', 'retention/7 years'],
  level: 3,
  priority: 1,
  standing: 'reviewed',
  described: true,
  gone: false,
  name: 'booking_leg',
  type: 'varchar(40)',
  uses: 120,
  usesTold: true,
  bytes: 20_000_000,
  isMade: false,
  makesOthers: true,
  asked: Date.UTC(2026, 9, 15, 12),
  created: Date.UTC(2026, 10, 1),
  changed: Date.UTC(2026, 10, 20),
  certified: Date.UTC(2026, 4, 1),
  read: Date.UTC(2026, 10, 27, 3),
  path: 'booking_system.booking.booking_leg',
  above: [
    { name: 'booking_system', path: 'booking_system' },
    { name: 'booking', path: 'booking_system.booking' },
  ],
  upstreamOf: [
    { name: 'core', path: 'core' },
    { name: 'sailing', path: 'core.sailing' },
  ],
  downstreamOf: [],
  wordsCarried: [],
  notices: [],
  words: Object.values(searchWords(['booking_leg', 'emailAddress'], ['One crossing of a Bokning'])).flat(),
};
const NOW = Date.UTC(2026, 10, 27, 15);
const holds = (text: string) => passes(asOf(parseFilter(text), NOW), facts);

describe('filters', () => {
  it.each([
    ['', true],
    ['kind:table', true],
    ['class:phone via:lineage', true],
    ['class:email via:lineage', false],
    ['class:email (class:phone via:lineage)', true],
    ['via:lineage', true],
    ['tag:retention via:lineage', true],
    ['tag:pilot via:lineage', false],
    ['tag:pilot', true],
    ['arrived:email', false],
    ['kind:view', false],
    ['kind:view,table', true],
    ['domain:travel', true],
    ['domain:"Onboard sales"', false],
    ['owner:none', false],
    ['owner:any', true],
    ['steward:none', true],
    ['owner:"tobias marrow"', true],
    ['path:booking_system.booking.booking_leg', true],
    ['path:*.BOOKING_leg', true],
    ['path:booking_leg', false],
    ['under:booking_system.booking', true],
    ['upstream:sailing', true],
    ['upstream:core.s*', true],
    ['upstream:co*g', false],
    ['downstream:*', false],
    ['class:email level>=guarded', true],
    ['priority:important', true],
    ['priority>=critical', false],
    ['priority>ordinary', true],
    ['level>guarded', false],
    ['level<=guarded', true],
    ['level:none', false],
    ['tag:retention', true],
    ['tag:"retention/7 years"', true],
    ['tag:retention/short', false],
    ['tag:none', false],
    ['missing:tag', false],
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
    ['missing:steward', true],
    ['missing:owner,description', false],
    ['missing:owner,steward', true],
    ['person:"rafe quillon"', true],
    ['person:"Tobias Marrow" -person:"Ida Holm"', true],
    ['person:none', false],
    ['person:any custodian:any', true],
    ['name:booking*', true],
    ['name:*_LEG', true],
    ['name:leg', false],
    ['name:b*k*g*g', true],
    ['type:varchar*', true],
    ['type:"varchar(40)"', true],
    ['type:varchar', false],
    ['type:none', false],
    ['used:yes', true],
    ['used:no', false],
    ['used:120', true],
    ['used:untold', false],
    ['size:20MB', true],
    ['size>=20mb size<20.001MB', true],
    ['size>20MB', false],
    ['size>19999.9k', true],
    ['size:none', false],
    ['size:any', true],
    ['lineage:out', true],
    ['lineage:in', false],
    ['lineage:both', false],
    ['lineage:in,any', true],
    ['lineage:none', false],
    ['used>120', false],
    ['used>=120 used<121', true],
    ['asked:2026-10-15', true],
    ['asked:2026-10', true],
    ['asked>2026-10', false],
    ['asked>=2026-10-15 asked<=2026-10-15', true],
    ['asked>-30d', false],
    ['asked>=-2m', true],
    ['asked:any', true],
    ['certified:2026-05 certified>=-1y', true],
    ['certified:none', false],
    ['fresh>=-1d', true],
    ['fresh<-1d', false],
    ['under:booking', true],
    ['under:book*', true],
    ['under:booking_leg', false],
    ['-under:core under:booking,core', true],
    ['changed>=-7d', true],
    ['changed:2026-11-20', true],
    ['changed<2026-11-20', false],
    ['created<today', true],
    ['created:2026-11-01', true],
    ['created>=-26d', true],
    ['created>-26d', false],
    ['created<2026', false],
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
    ['kind:table asked>=soon', 18, '"soon" is no value of asked.'],
    ['certified>=none', 11, '"none" is no value of certified.'],
    ['fresh:soon', 6, '"soon" is no value of fresh.'],
    ['asked:2026-02-30', 6, '"2026-02-30" is no value of asked.'],
    ['used>=yes', 6, '"yes" is no value of used.'],
    ['used:often', 5, '"often" is no value of used.'],
    ['missing:owner,luck', 14, '"luck" is no value of missing.'],
    ['size>=none', 6, '"none" is no value of size.'],
    ['size:20miles', 5, '"20miles" is no value of size.'],
    ['lineage:up', 8, '"up" is no value of lineage.'],
    ['used>untold', 5, '"untold" is no value of used.'],
    ['created:none', 8, '"none" is no value of created.'],
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

describe('patterns', () => {
  it.each([
    ['*', '', true],
    ['*', 'anything', true],
    ['', '', true],
    ['', 'x', false],
    ['a*', 'ABBA', true],
    ['*a', 'Åå', true],
    ['a*b*c', 'a--b-b-c', true],
    ['a*b*c', 'a--c-b', false],
    ['100%_*', '100%_x', true],
  ])('%s fits %s: %s', (pattern, text, expected) => expect(fits(pattern, text)).toBe(expected));

  it('say the same as a pattern of LIKE, in no more time than both lengths take', () => {
    const piece = fc.stringMatching(/^[ab*%_]{0,8}$/);
    fc.assert(
      fc.property(piece, fc.stringMatching(/^[ab%_]{0,10}$/), (pattern, text) => {
        const like = likePattern(pattern).replace(/\\(.)|%|([^%])/g, (whole, escaped, plain) =>
          whole === '%' ? '.*' : `\\u{${(escaped ?? plain).codePointAt(0).toString(16)}}`,
        );
        expect(fits(pattern, text)).toBe(new RegExp(`^${like}$`, 'u').test(text));
      }),
      { numRuns: 1000 },
    );
    expect(fits('*a'.repeat(500), `${'a'.repeat(5000)}b`)).toBe(false);
  });
});
