import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { changesOf, gathered, inWords, spoken } from './index.ts';

describe('what changed, in words', () => {
  it('names fields and values as people say them', () => {
    expect(['otherNames', 'owner'].map(spoken)).toEqual(['other names', 'owner']);
    expect([null, undefined, '', [], ['a', 'b'], { a: 1 }, [{ a: 1 }], 0, false].map(inWords)).toEqual([
      'nothing',
      'nothing',
      'nothing',
      'nothing',
      'a, b',
      '{"a":1}',
      '{"a":1}',
      '0',
      'false',
    ]);
  });

  it('tells from what to what; of something new or gone what it holds', () => {
    expect(changesOf({ before: { owner: null, tags: ['x'] }, after: { owner: 'Ann', tags: [] } })).toEqual([
      { field: 'owner', before: 'nothing', after: 'Ann' },
      { field: 'tags', before: 'x', after: 'nothing' },
    ]);
    expect(changesOf({ before: null, after: { name: 'n', text: '' } })).toEqual([
      { field: 'name', before: null, after: 'n' },
    ]);
    expect(changesOf({ before: { name: 'n' }, after: null })).toEqual([{ field: 'name', before: 'n', after: null }]);
    expect(changesOf({ before: null, after: null })).toEqual([]);
  });
});

const entry = (nth: number, more: object = {}) => ({
  at: new Date(Date.UTC(2026, 10, 30, 9) - nth * 60_000).toISOString(),
  person: 'Ann',
  action: 'edited',
  kind: 'table',
  subjectId: `t${nth}`,
  ...more,
});

describe('what one did to many', () => {
  it('is told once, with how many it was; what is of one thing, of few, or far apart is told one by one', () => {
    const many = [0, 1, 2, 3].map((nth) => entry(nth));
    expect(gathered(many)).toEqual([{ first: many[0], more: 3 }]);
    expect(gathered(many.slice(0, 2)).map(({ more }) => more)).toEqual([0, 0]);
    const ofOne = many.map((one) => ({ ...one, subjectId: 't' }));
    expect(gathered(ofOne).map(({ first }) => first)).toEqual(ofOne);
    const apart = [entry(0), entry(70), entry(140), entry(210)];
    expect(gathered(apart).map(({ more }) => more)).toEqual([0, 0, 0, 0]);
    const mixed = [entry(0), entry(1, { person: 'Bo' }), entry(2), entry(3), entry(4)];
    expect(gathered(mixed).map(({ first, more }) => [first.subjectId, more])).toEqual([
      ['t0', 0],
      ['t1', 0],
      ['t2', 2],
    ]);
  });

  it('loses none and keeps the order, whatever came', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            at: fc.date({ min: new Date(0), max: new Date(1e7), noInvalidDate: true }).map((at) => at.toISOString()),
            person: fc.constantFrom('Ann', 'Bo', null),
            action: fc.constantFrom('edited', 'tagged'),
            kind: fc.constantFrom('table', 'term'),
            subjectId: fc.constantFrom('a', 'b', 'c', 'd', 'e'),
          }),
        ),
        (entries) => {
          const told = gathered(entries);
          expect(told.reduce((sum, { more }) => sum + more + 1, 0)).toBe(entries.length);
          let at = 0;
          for (const { first, more } of told) {
            expect(first).toBe(entries[at]);
            for (const one of entries.slice(at, at + more + 1))
              expect([one.person, one.action, one.kind]).toEqual([first.person, first.action, first.kind]);
            at += more + 1;
          }
        },
      ),
    );
  });
});
