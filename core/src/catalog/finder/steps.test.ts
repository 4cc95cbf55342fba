import fc from 'fast-check';
import { expect, it } from 'vitest';
import { Bits } from './bits.ts';
import { Steps } from './steps.ts';

/** What is reached, by the plain lists. */
function reachedIn(
  lists: ReadonlyMap<number, readonly number[]>,
  starts: readonly number[],
  way: 'upstream' | 'downstream',
): number[] {
  const met = new Set<number>();
  const follow = (slot: number) => {
    const next =
      way === 'upstream'
        ? (lists.get(slot) ?? [])
        : [...lists].flatMap(([to, from]) => (from.includes(slot) ? [to] : []));
    for (const one of next)
      if (!met.has(one)) {
        met.add(one);
        follow(one);
      }
  };
  starts.forEach(follow);
  return [...met].sort((a, b) => a - b);
}
const slotsOf = (bits: Bits): number[] => {
  const slots: number[] = [];
  bits.each((slot) => slots.push(slot));
  return slots;
};

const SIZE = 12;
it('what is reached is what the lists say, whatever was changed, before and after it was put together', () => {
  const list = fc.uniqueArray(fc.nat(SIZE - 1), { maxLength: 3 });
  const change = fc.tuple(fc.nat(SIZE - 1), list);
  fc.assert(
    fc.property(
      fc.array(change, { maxLength: 20 }),
      fc.array(change, { maxLength: 12 }),
      fc.uniqueArray(fc.nat(SIZE - 1), { maxLength: 2 }),
      (before, after, starts) => {
        const [steps, lists] = [new Steps(), new Map<number, readonly number[]>()];
        const start = new Bits(SIZE);
        for (const slot of starts) start.add(slot);
        const compare = () => {
          for (const way of ['upstream', 'downstream'] as const)
            expect(slotsOf(steps.reached(start, way, SIZE))).toEqual(reachedIn(lists, starts, way));
        };
        const lead = ([slot, from]: readonly [number, readonly number[]]) => {
          steps.lead(slot, from);
          lists.set(slot, from);
        };
        before.forEach(lead);
        compare();
        // So many changes that they are put to the rest at the next question.
        for (let turn = 0; turn < 3000; turn += 1) steps.lead(turn % SIZE, turn % 2 ? [] : [(turn + 1) % SIZE]);
        for (let slot = 0; slot < SIZE; slot += 1) steps.lead(slot, lists.get(slot) ?? []);
        compare();
        after.forEach(lead);
        compare();
        lists.forEach((from, slot) => lead([slot, from]));
        compare();
      },
    ),
    { numRuns: 100 },
  );
});
