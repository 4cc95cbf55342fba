import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { near, slipsOf } from '../../text/index.ts';
import { Bits } from './bits.ts';
import { IdTable } from './idTable.ts';
import { pageOf } from './pages.ts';
import { WordBook } from './wordBook.ts';

const slots = fc.uniqueArray(fc.nat(400), { maxLength: 60 });
const bitsOf = (list: readonly number[]) => {
  const bits = new Bits(401);
  for (const slot of list) bits.add(slot);
  return bits;
};
const listOf = (bits: Bits) => {
  const list: number[] = [];
  bits.each((slot) => list.push(slot));
  return list;
};
const ascending = (a: number, b: number) => a - b;

it('sets of slots are what sets are', () => {
  fc.assert(
    fc.property(slots, slots, (a, b) => {
      expect(listOf(bitsOf(a))).toEqual([...a].sort(ascending));
      expect(listOf(bitsOf(a).and(bitsOf(b)))).toEqual(a.filter((slot) => b.includes(slot)).sort(ascending));
      expect(listOf(bitsOf(a).or(bitsOf(b)))).toEqual([...new Set([...a, ...b])].sort(ascending));
      expect(listOf(bitsOf(a).without(bitsOf(b)))).toEqual(a.filter((slot) => !b.includes(slot)).sort(ascending));
      expect(bitsOf(a).count()).toBe(a.length);
      expect(bitsOf(a).some()).toBe(a.length > 0);
      expect(Bits.all(401).without(bitsOf(a)).count()).toBe(401 - a.length);
    }),
  );
});

it('ids keep their slots, however many come', () => {
  const table = new IdTable();
  const ids = fc.sample(fc.uuid(), { numRuns: 9000, seed: 3 });
  const first = new Map<string, number>();
  for (const id of ids) first.set(id, table.add(id));
  for (const [id, slot] of first) expect([table.slotOf(id), table.idOf(slot), table.add(id)]).toEqual([slot, id, slot]);
  expect(table.size).toBe(first.size);
  expect(table.slotOf('00000000-0000-4000-8000-000000000000')).toBe(-1);
});

it('a page is what sorting all would give at its place, of few and of many', () => {
  fc.assert(
    fc.property(
      fc.array(fc.nat(9), { minLength: 1, maxLength: 300 }),
      fc.integer({ min: 1, max: 100 }),
      fc.nat(320),
      fc.nat(60),
      (buckets, step, from, size) => {
        // An order that is not that of the slots.
        const order = Uint32Array.from(buckets.keys()).reverse();
        const rank = Uint32Array.from(order, (_, slot) => order.indexOf(slot));
        const found = [...buckets.keys()].filter((slot) => slot % step === 0);
        const bits = new Bits(buckets.length);
        for (const slot of found) bits.add(slot);
        const bucketOf = (slot: number) => buckets[slot] as number;
        const expected = [...found]
          .sort((a, b) => bucketOf(a) - bucketOf(b) || (rank[a] as number) - (rank[b] as number))
          .slice(from, from + size);
        // Numbers whose places are the other way round.
        const column = buckets.map((bucket) => 9 - bucket);
        const places = Uint32Array.from({ length: 10 }, (_, number) => 9 - number);
        expect(pageOf({ bits, total: found.length, column, places, order, rank }, from, from + size)).toEqual(expected);
      },
    ),
    { numRuns: 500 },
  );
});

describe('slips', () => {
  /** Optimal string alignment, as it is defined (Damerau 1964; Boytsov 2011). */
  function distance(a: string, b: string): number {
    const d = Array.from({ length: a.length + 1 }, (_, i) =>
      Array.from({ length: b.length + 1 }, (_, j) => (i === 0 ? j : j === 0 ? i : 0)),
    );
    const at = (i: number, j: number) => d[i]?.[j] as number;
    for (let i = 1; i <= a.length; i += 1)
      for (let j = 1; j <= b.length; j += 1) {
        let least = Math.min(at(i - 1, j) + 1, at(i, j - 1) + 1, at(i - 1, j - 1) + (a[i - 1] === b[j - 1] ? 0 : 1));
        if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
          least = Math.min(least, at(i - 2, j - 2) + 1);
        (d[i] as number[])[j] = least;
      }
    return at(a.length, b.length);
  }
  const word = fc.stringMatching(/^[abc]{1,9}$/);

  it('are those that the plain definition finds', () => {
    fc.assert(
      fc.property(fc.uniqueArray(word, { minLength: 1, maxLength: 40 }), word, (list, wanted) => {
        const words = [...list].sort();
        const most = slipsOf(wanted);
        const found = new Map(
          near(wanted, words.length, (at) => words[at] as string).map(({ at, distance }) => [words[at], distance]),
        );
        for (const one of words) {
          const whole = distance(one, wanted);
          if (found.has(one)) {
            const begun = Math.min(
              ...Array.from({ length: one.length + 1 }, (_, end) => distance(one.slice(0, end), wanted)),
            );
            expect([one, found.get(one)]).toEqual([one, Math.min(whole, begun + 0.5)]);
          } else if (found.size < 12) expect([one, whole === 0 || whole > most]).toEqual([one, true]);
        }
      }),
      { numRuns: 1500 },
    );
  });

  it('short words have none', () => {
    const words = ['cat', 'cats', 'dog'];
    expect(near('cot', 3, (at) => words[at] as string)).toEqual([]);
  });
});

it('a book of words finds beginnings and forms also of those that came later', () => {
  const book = new WordBook();
  const add = (word: string, slot: number) => book.come(book.numberOf(word), slot * 2);
  for (const [slot, word] of ['voyage', 'vessel', 'crew'].entries()) add(word, slot);
  const beginning = (prefix: string) => book.beginning(prefix).map((number) => book.wordOf(number));
  expect(beginning('v')).toEqual(['vessel', 'voyage']);
  add('voyages', 3);
  add('berth', 0);
  expect(beginning('vo')).toEqual(['voyage', 'voyages']);
  expect(beginning('')).toEqual(['berth', 'crew', 'vessel', 'voyage', 'voyages']);
  expect(book.forms('voyage', 'english').map((number) => book.wordOf(number))).toEqual(['voyages']);
  const { entries, length } = book.postings(book.numberOf('voyage'));
  expect([...entries.subarray(0, length)]).toEqual([0]);
});
