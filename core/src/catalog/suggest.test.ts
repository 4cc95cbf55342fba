import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CLUES, type Clue, refusalOf, suggestionsFrom, worthOf } from './suggest.ts';

const clue = (more: Partial<Clue> = {}): Clue => ({
  assetId: 'a',
  field: 'description',
  value: 'Where tickets are sent.',
  label: 'Where tickets are sent.',
  kind: 'same name',
  of: 1,
  say: 1,
  by: null,
  ...more,
});

describe('suggestions', () => {
  it('are put together where clues say the same, and the strongest comes first', () => {
    const found = suggestionsFrom(
      [
        clue({ of: 4, say: 3 }),
        clue({ kind: 'lineage', value: 'where  tickets are sent' }),
        clue({ of: 3, say: 2, value: 'An address' }),
        // Columns of one name that each mean something else: what a few say is nothing to go by.
        clue({ of: 3, say: 1, value: 'The sender' }),
        clue({ field: 'term', of: 3, say: 1, value: 'Sender' }),
        clue({ assetId: 'b', kind: 'comment', value: 'Of b' }),
      ],
      new Set(),
    );
    expect(found.map(({ assetId, value, clues }) => [assetId, value, clues.map(({ kind }) => kind)])).toEqual([
      ['a', 'where  tickets are sent', ['lineage', 'same name']],
      ['b', 'Of b', ['comment']],
      ['a', 'An address', ['same name']],
      ['a', 'Sender', ['same name']],
    ]);
    expect(found[0]?.weight).toBeCloseTo(1 - (1 - 0.8) * (1 - 0.75 * 0.75 * 0.875));
  });

  it('never come back once they were refused, however they are spaced; another thing does', () => {
    const refused = new Set([refusalOf({ assetId: 'a', field: 'description', value: 'WHERE tickets  are sent' })]);
    expect(suggestionsFrom([clue(), clue({ value: 'Another' })], refused).map(({ value }) => value)).toEqual([
      'Another',
    ]);
    expect(suggestionsFrom([clue({ assetId: 'b' })], refused)).toHaveLength(1);
    expect(suggestionsFrom([clue({ value: '  ' })], new Set())).toEqual([]);
  });

  it('are at most so many for one field of one asset', () => {
    const many = ['one', 'two', 'three', 'four', 'five'].map((value) => clue({ value }));
    expect(suggestionsFrom(many, new Set())).toHaveLength(3);
    expect(suggestionsFrom([...many, clue({ field: 'term', value: 't' })], new Set(), 2)).toHaveLength(3);
  });

  it('weigh more the more agree, and less the more say otherwise', () => {
    const kind = fc.constantFrom(...CLUES);
    fc.assert(
      fc.property(kind, fc.integer({ min: 1, max: 50 }), fc.integer({ min: 0, max: 50 }), (one, say, others) => {
        const now = worthOf({ kind: one, say, of: say + others });
        expect(now).toBeGreaterThan(0);
        expect(now).toBeLessThan(1);
        expect(worthOf({ kind: one, say: say + 1, of: say + 1 + others })).toBeGreaterThanOrEqual(now);
        expect(worthOf({ kind: one, say, of: say + others + 1 })).toBeLessThan(now);
      }),
    );
  });
});
