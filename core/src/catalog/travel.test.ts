import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type CarryingStep, type GivenTag, spread, type TagPlace, travelledTags } from './travel.ts';

const column = (parentId: string): TagPlace => ({ kind: 'column', parentId });
const TABLE: TagPlace = { kind: 'table', parentId: null };
const PLACES = new Map<string, TagPlace>([
  ['a', TABLE],
  ['b', { kind: 'view', parentId: null }],
  ['c', TABLE],
  ['a.1', column('a')],
  ['a.2', column('a')],
  ['b.1', column('b')],
  ['c.1', column('c')],
]);
const step = (from: string, to: string, kind = 'copied', wrong = false): CarryingStep => ({ from, to, kind, wrong });
const given = (assetId: string, value = ''): GivenTag => ({ assetId, tagId: 'law', value });
const law = (more: { travels?: string[]; kinds?: string[] | null } = {}) =>
  new Map([['law', { travels: ['copied', 'transformed'], kinds: null, ...more }]]);
const came = (...args: Parameters<typeof travelledTags>) =>
  travelledTags(...args)
    .map(({ assetId, value, fromId, distance }) => `${assetId}${value && `=${value}`} from ${fromId} ${distance}`)
    .sort();
const WAY = [step('a.1', 'b.1'), step('b.1', 'c.1', 'transformed')];

describe('tags that travel', () => {
  it('go from column to column, and from table to table by what their columns get', () => {
    expect(came([given('a.1')], [], WAY, PLACES, law())).toEqual(['b.1 from a.1 1', 'c.1 from a.1 2']);
    expect(came([given('a')], [], WAY, PLACES, law())).toEqual(['b from a 1', 'c from a 2']);
    // A form that nobody can scan feeds a table as a whole; a table that feeds a column feeds the table of it.
    expect(came([given('a')], [], [step('a', 'c.1')], PLACES, law())).toEqual(['c from a 1', 'c.1 from a 1']);
  });

  it('go on by the kinds of steps that they name, and never by one that somebody struck', () => {
    expect(came([given('a')], [], WAY, PLACES, law({ travels: ['copied'] }))).toEqual(['b from a 1']);
    expect(came([given('a')], [], WAY, PLACES, law({ travels: [] }))).toEqual([]);
    expect(came([given('a')], [], [step('a.1', 'b.1', 'copied', true)], PLACES, law())).toEqual([]);
    expect(came([given('a')], [], [step('a.1', 'b.1', 'masked')], PLACES, law({ travels: ['masked'] }))).toEqual([
      'b from a 1',
    ]);
  });

  it('stop at what was given another value, is refused, or may not carry them', () => {
    expect(came([given('a', 'eu'), given('b', 'us')], [], WAY, PLACES, law())).toEqual(['c=us from b 1']);
    expect(came([given('a')], [given('b')], WAY, PLACES, law())).toEqual([]);
    expect(came([given('a')], [], WAY, PLACES, law({ kinds: ['table'] }))).toEqual([]);
    expect(came([given('a')], [], [...WAY, step('a.2', 'c.1')], PLACES, law({ kinds: ['table'] }))).toEqual([
      'c from a 1',
    ]);
  });

  it('come with each of their values where several arrive, by the shortest way', () => {
    const both = [step('a.1', 'c.1'), step('b.1', 'c.1'), step('a.2', 'b.1', 'masked')];
    expect(came([given('a', 'eu'), given('b', 'us')], [], both, PLACES, law())).toEqual([
      'c=eu from a 1',
      'c=us from b 1',
    ]);
    expect(came([given('a', 'eu'), given('b', 'eu')], [], both, PLACES, law())).toEqual(['c=eu from a 1']);
  });
});

describe('what spreads', () => {
  const node = fc.integer({ min: 0, max: 9 }).map(String);
  const steps = fc.array(
    fc.record({
      from: node,
      to: node,
      kind: fc.constantFrom('copied', 'transformed', 'aggregated'),
      wrong: fc.constantFrom(false, false, false, true),
    }),
    { maxLength: 25 },
  );
  const kinds = fc.subarray(['copied', 'transformed', 'aggregated']);
  const inOrder = (found: ReturnType<typeof spread>) =>
    found.map(({ id, fromId, distance }) => `${id} ${fromId} ${distance}`).sort();

  it('is the same whatever the order of the steps and of what it starts from', () => {
    fc.assert(
      fc.property(steps, fc.uniqueArray(node, { maxLength: 4 }), kinds, (all, from, by) => {
        const out = (id: string) => id === '7';
        expect(inOrder(spread([...from].reverse(), [...all].reverse(), by, out))).toEqual(
          inOrder(spread(from, all, by, out)),
        );
      }),
    );
  });

  it('comes no less far by more steps, more kinds of them, or more that it starts from', () => {
    fc.assert(
      fc.property(steps, steps, fc.uniqueArray(node, { maxLength: 3 }), node, kinds, (some, more, from, also, by) => {
        const never = () => false;
        const before = spread(from, some, by, never);
        const after = new Map(
          spread([...new Set([...from, also])], [...some, ...more], [...new Set([...by, 'copied'])], never).map(
            (one) => [one.id, one.distance],
          ),
        );
        for (const { id, distance } of before)
          if (id !== also) expect(after.get(id) ?? Number.POSITIVE_INFINITY).toBeLessThanOrEqual(distance);
      }),
    );
  });

  it('leaves nothing where there is nothing that it starts from', () => {
    fc.assert(
      fc.property(steps, kinds, (all, by) => {
        expect(spread([], all, by, () => false)).toEqual([]);
      }),
    );
  });
});
