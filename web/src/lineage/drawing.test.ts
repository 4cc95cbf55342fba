// @vitest-environment jsdom
import type { LineageAnswer, LineageNode } from '@idrel/contract/lineage';
import { describe, expect, it } from 'vitest';
import { type Drawing, toSvg } from './drawing.ts';
import { toEdges } from './edges.ts';
import { COLUMN, HEAD, NODE_WIDTH } from './placing.ts';

const node = (id: string, more: Partial<LineageNode> = {}): LineageNode => ({
  id,
  kind: 'table',
  name: id,
  path: `s.${id}`,
  sourceId: 's',
  source: 'Shop',
  domain: 'Bookings',
  standing: 'unreviewed',
  notices: [],
  level: null,
  columns: [],
  columnCount: 0,
  statement: null,
  problems: [],
  goneAt: null,
  more: { upstream: 0, downstream: 0 },
  ...more,
});
const column = (id: string) => ({ id, name: id, type: null, classes: [], level: null });
const answer: LineageAnswer = {
  focus: 'b',
  nodes: [
    node('a', { columns: [column('a1'), column('a2')] }),
    node('b', { path: 's.<b> & "c"', goneAt: '2026-11-01T00:00:00.000Z' }),
  ],
  flows: [],
  links: [
    {
      from: 'a2',
      to: 'b',
      fromTable: 'a',
      toTable: 'b',
      kind: 'masked',
      wrong: false,
      said: false,
      change: 'came',
      flow: null,
    },
  ],
  influences: [],
  sources: [],
  coarse: false,
  nearest: false,
};
const unfolded = new Set(['a']);
const drawing: Drawing = {
  answer,
  placed: {
    at: new Map([
      ['a', { x: 0, y: 0 }],
      ['b', { x: 400, y: 10 }],
    ]),
    lanes: [{ source: 'Shop', x: -26, y: -30, width: 700, height: 140 }],
  },
  heights: new Map([
    ['a', HEAD + 2 * COLUMN],
    ['b', HEAD],
  ]),
  unfolded,
  edges: toEdges(answer, unfolded, null),
};
const parsed = (svg: string) => new DOMParser().parseFromString(svg, 'image/svg+xml');

describe('a picture as SVG', () => {
  const document = parsed(toSvg(drawing, (name) => `color of ${name}`));

  it('is well-formed whatever names hold, and knows the colours of the theme', () => {
    expect(document.querySelector('parsererror')).toBeNull();
    expect([...document.querySelectorAll('text')].map((text) => text.textContent)).toEqual([
      'Shop',
      'came',
      's.a',
      'a1',
      'a2',
      's.<b> & "c"',
    ]);
    expect(document.documentElement.outerHTML).not.toContain('var(');
    expect(document.querySelector('text[text-decoration="line-through"]')?.textContent).toBe('s.<b> & "c"');
  });

  it('leads an edge from the row of its column to the head of a folded table, and holds all of it', () => {
    const path = [...document.querySelectorAll('path[marker-end]')][0];
    const [x, y] = [NODE_WIDTH, HEAD + COLUMN + COLUMN / 2];
    expect(path?.getAttribute('d')).toMatch(new RegExp(`^M${x} ${y}C.* 400 ${10 + HEAD / 2}$`));
    const [left = 0, top = 0, width = 0, height = 0] = (document.documentElement.getAttribute('viewBox') ?? '')
      .split(' ')
      .map(Number);
    expect([left <= -26, top <= -30, left + width >= 674, top + height >= 110]).toEqual([true, true, true, true]);
  });
});
