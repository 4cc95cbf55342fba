import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Arrow, type Box, layOut } from './layout.ts';

const MEASURES = { step: 300, gap: 20, laneGap: 60 };
const box = (id: string, lane = 'one', height = 40): Box => ({ id, lane, height });
const laid = (boxes: readonly Box[], arrows: readonly Arrow[]) => layOut(boxes, arrows, MEASURES);
const spot = (at: ReturnType<typeof laid>['at'], id: string) => at.get(id) ?? { x: Number.NaN, y: Number.NaN };

describe('the layout of a picture', () => {
  it('puts a way on one line, from left to right', () => {
    const { at } = laid(
      ['c', 'a', 'b'].map((id) => box(id)),
      [
        ['a', 'b'],
        ['b', 'c'],
      ],
    );
    expect(Object.fromEntries(at)).toEqual({ a: { x: 0, y: 0 }, b: { x: 300, y: 0 }, c: { x: 600, y: 0 } });
  });

  it('puts what feeds only something late right before it, and what several come together in between them', () => {
    const { at } = laid(
      ['a', 'b', 'c', 'late'].map((id) => box(id)),
      [
        ['a', 'b'],
        ['b', 'c'],
        ['late', 'c'],
      ],
    );
    expect(spot(at, 'late').x).toBe(300);
    const [one, other] = [spot(at, 'b').y, spot(at, 'late').y];
    expect(spot(at, 'c').y).toBeGreaterThan(Math.min(one, other));
    expect(spot(at, 'c').y).toBeLessThan(Math.max(one, other));
  });

  it('does not cross what can stand side by side, whatever order it came in', () => {
    const { at } = laid(
      ['a', 'b', 'c', 'z', 'y', 'x'].map((id) => box(id)),
      [
        ['a', 'x'],
        ['b', 'y'],
        ['c', 'z'],
      ],
    );
    const down = (ids: string[]) => ids.toSorted((p, q) => spot(at, p).y - spot(at, q).y).join('');
    expect([down(['x', 'y', 'z']), down(['a', 'b', 'c'])]).toSatisfy(
      ([right, left]: [string, string]) => right === left.replace('a', 'x').replace('b', 'y').replace('c', 'z'),
    );
  });

  it('keeps each source in a lane of its own, the one that is furthest left at the top', () => {
    const { at, lanes } = laid(
      [box('mart', 'warehouse'), box('raw', 'booking'), box('core', 'warehouse')],
      [
        ['raw', 'core'],
        ['core', 'mart'],
      ],
    );
    expect(lanes).toEqual([
      { lane: 'booking', top: 0, height: 40 },
      { lane: 'warehouse', top: 100, height: 40 },
    ]);
    expect(spot(at, 'core')).toEqual({ x: 300, y: 100 });
  });

  const ids = Array.from({ length: 14 }, (_, n) => `n${n}`);
  const boxes = fc.array(
    fc.record({ lane: fc.constantFrom('one', 'two', 'three'), height: fc.constantFrom(40, 41, 260) }),
    { minLength: 1, maxLength: ids.length },
  );
  const arrows = fc.array(fc.tuple(fc.constantFrom(...ids), fc.constantFrom(...ids)), { maxLength: 30 });

  it('puts no box on another, and lanes below each other', () => {
    fc.assert(
      fc.property(boxes, arrows, (made, joined) => {
        const all = made.map((one, n) => ({ id: ids[n] ?? '', ...one }));
        const { at, lanes } = laid(all, joined);
        for (const a of all)
          for (const b of all) {
            if (a.id >= b.id) continue;
            const [p, q] = [spot(at, a.id), spot(at, b.id)];
            const apart = p.x !== q.x || p.y + a.height <= q.y || q.y + b.height <= p.y;
            expect(apart, `${a.id} ${JSON.stringify(p)} and ${b.id} ${JSON.stringify(q)}`).toBe(true);
          }
        for (const [n, { lane, top, height }] of lanes.entries()) {
          const next = lanes[n + 1];
          if (next) expect(top + height).toBeLessThan(next.top);
          for (const one of all.filter((other) => other.lane === lane)) {
            expect(spot(at, one.id).y).toBeGreaterThanOrEqual(top - 1);
            expect(spot(at, one.id).y + one.height).toBeLessThanOrEqual(top + height + 1);
          }
        }
      }),
    );
  });

  it('leads every arrow to the right where no circle is, and gives the same picture each time', () => {
    fc.assert(
      fc.property(boxes, arrows, (made, joined) => {
        const all = made.map((one, n) => ({ id: ids[n] ?? '', ...one }));
        const rank = (id: string) => ids.indexOf(id);
        const forward = joined
          .filter(([from, to]) => from !== to && all[rank(from)] && all[rank(to)])
          .map(([from, to]): Arrow => (rank(from) < rank(to) ? [from, to] : [to, from]));
        const { at } = laid(all, forward);
        for (const [from, to] of forward) expect(spot(at, from).x).toBeLessThan(spot(at, to).x);
        expect([...laid(all, forward).at]).toEqual([...at]);
      }),
    );
  });

  it('ends where circles are, also in one long way', () => {
    const many = Array.from({ length: 5000 }, (_, n) => box(`n${n}`));
    const circle = many.map(({ id }, n): Arrow => [id, `n${(n + 1) % many.length}`]);
    const { at } = laid(many, circle);
    expect(new Set([...at.values()].map(({ x }) => x)).size).toBe(5000);
  });
});
