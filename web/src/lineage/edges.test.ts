import type { LineageAnswer } from '@idrel/contract/lineage';
import { describe, expect, it } from 'vitest';
import { toEdges } from './edges.ts';

const link = (
  from: string,
  to: string,
  kind: LineageAnswer['links'][number]['kind'] = 'copied',
  flow: string | null = null,
) => ({
  from,
  to,
  fromTable: from.split('.')[0] ?? '',
  toTable: to.split('.')[0] ?? '',
  kind,
  wrong: false,
  said: false,
  change: null,
  flow,
});
const influence = (from: string, toTable: string, kind: LineageAnswer['influences'][number]['kind'] = 'filter') => ({
  from,
  fromTable: from.split('.')[0] ?? '',
  toTable,
  kind,
  change: null,
});
const answer = (links: LineageAnswer['links'], influences: LineageAnswer['influences'] = []): LineageAnswer => ({
  focus: 'a',
  nodes: [],
  flows: [],
  links,
  influences,
  sources: [],
  coarse: false,
  nearest: false,
});
const ends = (edges: ReturnType<typeof toEdges>) =>
  edges.map(({ source, target, sourceHandle, targetHandle }) => `${source}:${sourceHandle} ${target}:${targetHandle}`);

describe('edges of the picture', () => {
  it('are drawn between columns where tables are unfolded, and once between tables that are folded', () => {
    const told = answer([link('a.x', 'b.x'), link('a.y', 'b.y')]);
    expect(ends(toEdges(told, new Set(['a', 'b']), null))).toEqual(['a:out-a.x b:in-b.x', 'a:out-a.y b:in-b.y']);
    expect(ends(toEdges(told, new Set(['b']), null))).toEqual(['a:out b:in-b.x', 'a:out b:in-b.y']);
    expect(ends(toEdges(told, new Set(), null))).toEqual(['a:out b:in']);
  });

  it('go through the flow that carries the value, where it is told what is done to it', () => {
    const told = answer([link('a.x', 'b.x', 'masked', 'f'), link('a.y', 'b.y', 'copied', 'f')]);
    expect(ends(toEdges(told, new Set(['b']), null))).toEqual(['a:out f:in', 'f:out b:in-b.x', 'f:out b:in-b.y']);
    expect(toEdges(told, new Set(['b']), null).map(({ ariaLabel }) => ariaLabel)).toEqual([
      'copied',
      'masked',
      'copied',
    ]);
    const followed = toEdges(told, new Set(['b']), new Set(['a.y', 'b.y']));
    expect(followed.map(({ style }) => style?.opacity)).toEqual([1, 0.15, 1]);
  });

  it('stand out along a way that is followed, also where a folded table hides several', () => {
    const told = answer([link('a.y', 'b.y'), link('a.x', 'b.x', 'masked')]);
    const [edge] = toEdges(told, new Set(), new Set(['a.x', 'b.x']));
    expect(edge?.style).toMatchObject({ opacity: 1, stroke: 'var(--kelp)', strokeDasharray: '1 5' });
    const [x, y] = toEdges(told, new Set(['a', 'b']), new Set(['a.y', 'b.y']));
    expect([x?.style?.opacity, y?.style?.opacity]).toEqual([1, 0.15]);
  });

  it('say what came and what went; one that stands for several says that they changed', () => {
    const [came, went] = [
      { ...link('a.x', 'b.x'), change: 'came' as const },
      { ...link('a.y', 'b.y'), change: 'went' as const },
    ];
    const told = answer([came, went, link('a.z', 'b.z')], [{ ...influence('c.z', 'b'), change: 'went' }]);
    const words = (unfolded: readonly string[]) => toEdges(told, new Set(unfolded), null).map(({ label }) => label);
    expect(words(['a', 'b'])).toEqual(['came', 'went', undefined, 'went']);
    expect(words([])).toEqual(['changed', 'went']);
    expect(toEdges(answer([went]), new Set(), null)[0]?.ariaLabel).toBe('copied, went');
  });

  it('tell of rows only where no value flows, and never of what has no effect', () => {
    const told = answer(
      [link('a.x', 'b.x')],
      [influence('a.y', 'b'), influence('c.z', 'b', 'join'), influence('d.z', 'b', 'unused'), influence('b.q', 'b')],
    );
    expect(toEdges(told, new Set(), null).map(({ id }) => id)).toEqual(['a:out>b:in', 'rows:c>b']);
  });
});
