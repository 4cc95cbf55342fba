import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type AssetFacts, asOf, parseFilter, passes } from '../catalog/index.ts';
import { anyFilter, anyWord } from '../testing/filters.ts';
import { backwards, conditionsOf, holderOf, replay } from './index.ts';

const some = (...values: string[]) => fc.subarray(values);
/** Assets of which some of what filters ask for is so. */
const anyFacts: fc.Arbitrary<AssetFacts> = fc.record({
  kind: fc.constantFrom('table', 'view', 'column'),
  source: fc.constant('Booking system'),
  domains: some('Wake Card', 'Travel'),
  classes: some('email', 'iban'),
  arrived: some('email'),
  owners: some('Ida Holm', 'Bjørn Åse'),
  stewards: some('Ida Holm'),
  custodians: some('Ida Holm'),
  experts: some('Ida Holm'),
  terms: some('Traveller'),
  tags: some('retention', 'retention/short'),
  came: some('retention'),
  level: fc.constantFrom(null, 1, 3),
  priority: fc.constantFrom(0, 1, 2),
  standing: fc.constantFrom('unreviewed' as const, 'trusted' as const),
  notices: some('stop'),
  described: fc.boolean(),
  gone: fc.boolean(),
  name: fc.constantFrom('passenger', 'booking_leg'),
  type: fc.constantFrom(null, 'text'),
  uses: fc.constantFrom(0, 1, 100),
  usesTold: fc.boolean(),
  bytes: fc.constantFrom(null, 20_000_000),
  isMade: fc.boolean(),
  makesOthers: fc.boolean(),
  asked: fc.constantFrom(null, Date.UTC(2026, 0, 1)),
  created: fc.constant(Date.UTC(2026, 0, 1)),
  changed: fc.constant(Date.UTC(2026, 1, 28)),
  certified: fc.constantFrom(null, Date.UTC(2026, 10, 27)),
  read: fc.constantFrom(null, Date.UTC(2026, 10, 27)),
  path: fc.constantFrom('booking.passenger', 'x'),
  above: fc.constant([]),
  upstreamOf: fc.constant([]),
  downstreamOf: fc.constant([]),
  words: some('pax', 'booking'),
  wordsCarried: some('traveller'),
});

describe('the conditions of a filter', () => {
  it('are told once each, in full', () => {
    const { leaves } = conditionsOf(
      parseFilter('missing:owner (kind:table or not owner:none) class:email via:lineage'),
    );
    expect(leaves.map((leaf) => (leaf.type === 'is' ? `${leaf.key}:${leaf.values}` : leaf.text))).toEqual([
      'owner:none',
      'kind:table',
      'arrived:email',
    ]);
  });

  it('put together by their truths are what the filter is', () => {
    fc.assert(
      fc.property(
        anyFilter(['Booking system'], anyWord(fc.constantFrom('pax', 'booking'), fc.boolean())),
        anyFacts,
        (written, facts) => {
          const filter = asOf(written, Date.UTC(2026, 10, 27));
          const conditions = conditionsOf(filter);
          const truths = conditions.leaves.map((leaf) => passes(leaf, facts));
          expect(holderOf(conditions)((leaf) => truths[leaf] ?? false)).toBe(passes(filter, facts));
        },
      ),
    );
  });
});

describe('looking back', () => {
  it('undoes each change that came after a moment', () => {
    const changes = [
      { at: 25, truth: true },
      { at: 15, truth: false },
      { at: 16, truth: true },
    ];
    // Until 15 it was not so; then it was, twice told; since 25 it is not.
    expect(backwards(false, changes, [10, 20, 30])).toEqual([false, true, false]);
    expect(backwards(true, [], [10, 20])).toEqual([true, true]);
  });

  it('counts what was found each day, and what was changed once', () => {
    const conditions = conditionsOf(parseFilter('kind:table owner:none'));
    const all = [true, true, true, true];
    const lived = (owner: boolean[], there = all, same = [false, false, false, false]) => ({
      there,
      leaves: [all, owner],
      same,
    });
    expect(
      replay(
        conditions,
        [
          lived([true, true, false, true]),
          lived([false, false, true, true]),
          lived(all, [false, false, false, true]),
          lived(all, all, [true, true, false, false]),
        ],
        4,
      ),
    ).toEqual([
      { found: 2, changed: 1 },
      { found: 2, changed: 0 },
      { found: 2, changed: 2 },
      { found: 4, changed: 1 },
    ]);
  });

  it('reads dates that count back as of each day', () => {
    const filter = parseFilter('created<-7d');
    const day = 86_400_000;
    const dated = asOf(filter, 100 * day);
    expect(dated).toMatchObject({ type: 'is', key: 'created' });
    expect(JSON.stringify(asOf(filter, 101 * day))).not.toBe(JSON.stringify(dated));
  });
});
