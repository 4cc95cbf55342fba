import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { TEMPORARY_SCHEMA } from './schema.ts';
import { throughTemporary } from './temporary.ts';
import type { StatementLineage, ValueKind } from './types.ts';

type Edge = readonly [from: string, to: string, kind?: ValueKind];
const relationOf = (name: string) => ({
  schema: name.startsWith('t') ? TEMPORARY_SCHEMA : 's',
  relation: name.split('.')[0] ?? '',
});
const write = (target: string, edges: readonly Edge[], rows: readonly string[] = []): StatementLineage => ({
  kind: 'insert',
  target: relationOf(target),
  columns: edges.map(([, to]) => to),
  edges: edges.map(([from, to, kind = 'copied']) => ({
    from: { ...relationOf(from), column: from.split('.')[1] ?? '' },
    to,
    kind,
  })),
  influences: rows.map((from) => ({
    from: { ...relationOf(from), column: from.split('.')[1] ?? '' },
    kind: 'filter' as const,
  })),
  statement: '',
  line: 1,
});
const told = (statements: readonly StatementLineage[]) =>
  throughTemporary(statements).flatMap(({ target, edges, influences }) => [
    ...edges.map(({ from, to, kind }) => `${from.relation}.${from.column}>${target.relation}.${to} ${kind}`),
    ...influences.map(({ from, kind }) => `${from.relation}.${from.column}?${target.relation} ${kind}`),
  ]);

describe('temporary tables', () => {
  it('are left out: values go from where they came to where they end, with the strongest that happened to them', () => {
    expect(
      told([
        write('t1', [['a.x', 'y', 'transformed']], ['a.z']),
        write('t2', [['t1.y', 'w', 'aggregated']]),
        write('out', [['t2.w', 'v']]),
      ]),
    ).toEqual(['a.x>out.v aggregated', 'a.z?out filter']);
  });

  it('may be made of each other in a circle', () => {
    expect(
      told([
        write('t1', [
          ['a.x', 'y'],
          ['t2.w', 'y'],
        ]),
        write('t2', [['t1.y', 'w', 'transformed']]),
        write('out', [['t1.y', 'v']]),
      ]),
    ).toEqual(['a.x>out.v transformed']);
  });

  it('hide nothing that goes around a mask', () => {
    const around = [write('t1', [['a.x', 'y', 'masked']]), write('t1', [['a.x', 'y']]), write('out', [['t1.y', 'v']])];
    expect(told(around)).toEqual(['a.x>out.v copied']);
    expect(told([around[1], around[0], around[2]].filter((one) => one !== undefined))).toEqual(['a.x>out.v copied']);
  });

  it('in a long row, each made of the one before in two ways, are worked out once each', () => {
    const row = Array.from({ length: 60 }, (_, index) =>
      write(
        `t${index + 1}`,
        ['x', 'y'].flatMap((to): Edge[] =>
          ['x', 'y'].map((from) => [index === 0 ? `a.${from}` : `t${index}.${from}`, to] as const),
        ),
      ),
    );
    expect(told([...row, write('out', [['t60.x', 'v']])]).sort()).toEqual(['a.x>out.v copied', 'a.y>out.v copied']);
  });

  it('give the same in whatever order their statements stand', () => {
    const columns = ['a.x', 'a.y', 't1.x', 't1.y', 't2.x', 't2.y', 't3.x'];
    const edge = fc.tuple(fc.constantFrom(...columns), fc.constantFrom('x', 'y')).map(([from, to]): Edge => [from, to]);
    const statement = fc
      .tuple(fc.constantFrom('t1', 't2', 't3', 'out'), fc.array(edge, { maxLength: 3 }))
      .map(([target, edges]) => write(target, edges));
    fc.assert(
      fc.property(fc.array(statement, { maxLength: 8 }), fc.infiniteStream(fc.nat()), (statements, order) => {
        const shuffled = statements
          .map((one) => [one, order.next().value ?? 0] as const)
          .sort((a, b) => a[1] - b[1])
          .map(([one]) => one);
        const [one, other] = [statements, shuffled].map((list) => [...new Set(told(list))].sort());
        expect(one).toEqual(other);
        expect(one?.some((text) => /^t\d/.test(text))).toBe(false);
      }),
    );
  });
});
