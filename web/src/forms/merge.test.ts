import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { changedFields, rebase, sameValue } from './merge.ts';

interface Term {
  name: string;
  otherNames: string[];
  ownerId: string | null;
}
const base: Term = { name: 'Traveller', otherNames: ['Passenger'], ownerId: null };

describe('an edit put upon what somebody else made meanwhile', () => {
  it('keeps mine where only I changed something, and takes theirs where only they did', () => {
    expect(rebase(base, { ...base, name: 'Guest' }, { ...base, ownerId: 'p1' })).toEqual({
      values: { ...base, name: 'Guest', ownerId: 'p1' },
      followed: ['ownerId'],
      clashes: [],
    });
  });

  it('shows both sides where both changed the same field, and keeps mine in the form', () => {
    const { values, followed, clashes } = rebase(
      base,
      { ...base, otherNames: ['Guest'] },
      { ...base, otherNames: ['Client'], name: 'Traveler' },
    );
    expect(values).toEqual({ ...base, otherNames: ['Guest'], name: 'Traveler' });
    expect(followed).toEqual(['name']);
    expect(clashes).toEqual([{ field: 'otherNames', base: ['Passenger'], mine: ['Guest'], theirs: ['Client'] }]);
  });

  it('puts both changes together where a field can hold both, and shows both sides where it cannot', () => {
    const joiners = {
      name: (start: unknown, mine: unknown, theirs: unknown) =>
        mine === 'both' ? `${mine}+${theirs} of ${start}` : undefined,
    };
    const changed = { ...base, name: 'Client' };
    expect(rebase(base, { ...base, name: 'both' }, changed, joiners)).toEqual({
      values: { ...base, name: 'both+Client of Traveller' },
      followed: ['name'],
      clashes: [],
    });
    expect(rebase(base, { ...base, name: 'Guest' }, changed, joiners).clashes).toEqual([
      { field: 'name', base: 'Traveller', mine: 'Guest', theirs: 'Client' },
    ]);
  });

  it('is no clash where both came to the same', () => {
    expect(rebase(base, { ...base, name: 'Guest' }, { ...base, name: 'Guest' })).toMatchObject({
      followed: [],
      clashes: [],
    });
  });

  it('loses nothing: every field is mine, theirs or told, whatever was changed', () => {
    const term = fc.record({
      name: fc.constantFrom('a', 'b', 'c'),
      otherNames: fc.subarray(['x', 'y']),
      ownerId: fc.constantFrom(null, 'p'),
    });
    fc.assert(
      fc.property(term, term, term, (start, mine, theirs) => {
        const { values, followed, clashes } = rebase(start, mine, theirs);
        const told = clashes.map(({ field }) => field);
        for (const field of ['name', 'otherNames', 'ownerId'] as const) {
          const [iDid, theyDid] = [
            changedFields(start, mine).includes(field),
            changedFields(start, theirs).includes(field),
          ];
          if (iDid) expect(values[field]).toEqual(mine[field]);
          else expect(values[field]).toEqual(theirs[field]);
          expect(followed.includes(field)).toBe(theyDid && !iDid);
          expect(told.includes(field)).toBe(iDid && theyDid && !sameValue(mine[field], theirs[field]));
        }
      }),
    );
  });
});

describe('values of forms', () => {
  it.each([
    [{ a: 1, b: [1, { c: null }] }, { b: [1, { c: null }], a: 1 }, true],
    [null, undefined, true],
    [{ a: undefined }, {}, true],
    [[1, 2], [2, 1], false],
    [[], {}, false],
    ['', null, false],
    [{ a: { b: 1 } }, { a: { b: 2 } }, false],
  ])('%j and %j are the same: %s', (a, b, same) => expect(sameValue(a, b)).toBe(same));
});
