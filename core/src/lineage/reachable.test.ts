import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { reachable, type Step } from './reachable.ts';

const step = (from: string, to: string): Step<null> => ({ from, to, edge: null });

describe('everything downstream', () => {
  const steps = [step('a', 'b'), step('b', 'c'), step('a', 'c'), step('c', 'd'), step('d', 'b'), step('x', 'a')];

  it('comes nearest first, once, with a shortest path, also around circles', () => {
    expect(reachable(steps, 'a', 'downstream')).toEqual([
      { id: 'b', distance: 1, path: ['a', 'b'] },
      { id: 'c', distance: 1, path: ['a', 'c'] },
      { id: 'd', distance: 2, path: ['a', 'c', 'd'] },
    ]);
  });

  it('is upstream when looked at from the other side', () => {
    expect(reachable(steps, 'a', 'upstream').map((entry) => entry.id)).toEqual(['x']);
    expect(reachable(steps, 'nowhere', 'downstream')).toEqual([]);
  });

  it('agrees with the transitive closure for any graph', () => {
    const node = fc.integer({ min: 0, max: 7 }).map(String);
    fc.assert(
      fc.property(fc.array(fc.tuple(node, node), { maxLength: 20 }), node, (pairs, start) => {
        const closure = new Set<string>();
        let grew = true;
        while (grew) {
          const before = closure.size;
          for (const [from, to] of pairs) if (from === start || closure.has(from)) closure.add(to);
          grew = closure.size > before;
        }
        closure.delete(start);
        const found = reachable(
          pairs.map(([from, to]) => step(from, to)),
          start,
          'downstream',
        );
        expect(new Set(found.map((entry) => entry.id))).toEqual(closure);
        for (const entry of found) {
          expect(entry.path).toHaveLength(entry.distance + 1);
          entry.path.slice(1).forEach((id, index) => expect(pairs).toContainEqual([entry.path[index], id]));
        }
      }),
    );
  });
});
