import fc from 'fast-check';
import { expect, it } from 'vitest';
import { movedApart } from './Shares.tsx';

it('keeps names of lines apart, in the order of their lines, and leaves those alone that stand alone', () => {
  expect(movedApart([10, 100, 50])).toEqual([0, 0, 0]);
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 190 }), { minLength: 1, maxLength: 6 }), (ends) => {
      const moves = movedApart(ends);
      const places = ends.map((end, nth) => end + (moves[nth] as number)).sort((a, b) => a - b);
      for (let nth = 1; nth < places.length; nth += 1)
        expect((places[nth] as number) - (places[nth - 1] as number)).toBeGreaterThanOrEqual(14);
      const below = (one: number, other: number) =>
        (ends[one] as number) < (ends[other] as number)
          ? (ends[one] as number) + (moves[one] as number) < (ends[other] as number) + (moves[other] as number)
          : true;
      for (const one of ends.keys()) for (const other of ends.keys()) expect(below(one, other)).toBe(true);
    }),
  );
});
