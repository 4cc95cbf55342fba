import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { chainOf, type Given, INCLUDES, includes, type Role, rightsChange } from './rights.ts';

const ROLES = Object.keys(INCLUDES) as Role[];
const PARENTS = new Map<string, string | null>([
  ['travel', null],
  ['bookings', 'travel'],
  ['wake', 'bookings'],
  ['shared', null],
  ['reports', 'shared'],
]);

describe('roles', () => {
  it('include what stands below them, and themselves', () => {
    for (const role of ROLES) {
      expect(includes(role, role)).toBe(true);
      expect(includes(role, 'reader')).toBe(true);
      expect(includes('administrator', role)).toBe(true);
    }
    expect(includes('editor', 'steward')).toBe(false);
    expect(includes('source administrator', 'editor')).toBe(false);
  });
  it('hold in a chain of domains that ends, also where a circle was written', () => {
    expect(chainOf('wake', PARENTS)).toEqual(['wake', 'bookings', 'travel']);
    expect(chainOf(null, PARENTS)).toEqual([]);
    expect(
      chainOf(
        'a',
        new Map([
          ['a', 'b'],
          ['b', 'a'],
        ]),
      ),
    ).toEqual(['a', 'b']);
  });
});

describe('what moves from one domain to another', () => {
  const moved = (given: Given[], to = 'shared') =>
    rightsChange(given, chainOf('bookings', PARENTS), ['bookings', ...chainOf(to, PARENTS)], ['wake']);
  it('comes to those above it then, and goes from those above it before, told by their greatest roles', () => {
    expect(
      moved([
        { person: 'tobias', role: 'steward', domain: 'travel' },
        { person: 'bettina', role: 'reader', domain: 'travel' },
        { person: 'bettina', role: 'reader', domain: 'shared' },
        { person: 'rafe', role: 'administrator', domain: 'shared' },
        { person: 'maud', role: 'editor', domain: 'bookings' },
        { person: 'jorun', role: 'administrator', domain: null },
      ]),
    ).toEqual([
      { person: 'tobias', gains: [], loses: ['steward'], keepsIn: [] },
      { person: 'rafe', gains: ['administrator'], loses: [], keepsIn: [] },
    ]);
  });
  it('keeps roles that were given within it', () => {
    expect(
      moved([
        { person: 'emrys', role: 'steward', domain: 'travel' },
        { person: 'emrys', role: 'reader', domain: 'wake' },
        { person: 'ottoline', role: 'editor', domain: 'travel' },
        { person: 'ottoline', role: 'reader', domain: 'shared' },
      ]),
    ).toEqual([
      { person: 'emrys', gains: [], loses: ['steward'], keepsIn: ['wake'] },
      { person: 'ottoline', gains: [], loses: ['editor'], keepsIn: [] },
    ]);
  });

  it('changes, as told, exactly what somebody may in it before and after', () => {
    const given = fc.array(
      fc.record({
        person: fc.constantFrom('a', 'b'),
        role: fc.constantFrom(...ROLES),
        domain: fc.constantFrom(null, ...PARENTS.keys()),
      }),
      { maxLength: 8 },
    );
    const may = (all: readonly Given[], person: string, chain: readonly string[]) =>
      ROLES.filter((wanted) =>
        all.some(
          ({ person: whose, role, domain }) =>
            whose === person && includes(role, wanted) && (domain === null || chain.includes(domain)),
        ),
      );
    fc.assert(
      fc.property(given, fc.constantFrom('shared', 'reports', null), (all, to) => {
        const [before, after] = [chainOf('bookings', PARENTS), ['bookings', ...chainOf(to, PARENTS)]];
        const changes = rightsChange(all, before, after);
        for (const person of ['a', 'b']) {
          const change = changes.find((entry) => entry.person === person) ?? { gains: [], loses: [] };
          const [could, can] = [may(all, person, before), may(all, person, after)];
          // What is gained was not there before and is then; what is lost the other way round; nothing else differs.
          expect(change.gains.every((role) => can.includes(role) && !could.includes(role))).toBe(true);
          expect(change.loses.every((role) => could.includes(role) && !can.includes(role))).toBe(true);
          expect(
            can
              .filter((role) => !could.includes(role))
              .every((role) => change.gains.some((one) => includes(one, role))),
          ).toBe(true);
          expect(
            could
              .filter((role) => !can.includes(role))
              .every((role) => change.loses.some((one) => includes(one, role))),
          ).toBe(true);
        }
      }),
    );
  });
});
