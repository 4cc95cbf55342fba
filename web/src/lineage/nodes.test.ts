import type { LineageAnswer } from '@idrel/contract/lineage';
import { describe, expect, it } from 'vitest';
import { toEdges } from './edges.ts';
import { type Scene, toNodes } from './nodes.ts';
import { COLUMN, COLUMNS_FROM, HEAD, NODE_WIDTH } from './placing.ts';

const node = (id: string): LineageAnswer['nodes'][number] => ({
  id,
  kind: 'table',
  name: id,
  path: id,
  sourceId: 's',
  source: 'Shop',
  domain: 'Sales',
  standing: 'unreviewed',
  notices: [],
  level: null,
  columns: ['x', 'y'].map((name) => ({ id: `${id}.${name}`, name, type: null, classes: [], level: null })),
  columnCount: 2,
  statement: null,
  problems: [],
  goneAt: null,
  more: { upstream: 0, downstream: 0 },
});
const link = (fromTable: string, toTable: string, column: string): LineageAnswer['links'][number] => ({
  from: `${fromTable}.${column}`,
  to: `${toTable}.${column}`,
  fromTable,
  toTable,
  kind: 'copied',
  wrong: false,
  said: false,
  change: null,
  flow: null,
});
const answer: LineageAnswer = {
  focus: 'a',
  nodes: ['a', 'b', 'c'].map(node),
  flows: [],
  links: [link('a', 'b', 'x'), link('a', 'b', 'y'), link('b', 'c', 'x')],
  influences: [],
  sources: [],
  coarse: false,
  nearest: false,
};
const scene: Scene = {
  answer,
  placed: {
    at: new Map([['b', { x: 326, y: 40 }]]),
    lanes: [{ source: 'Shop', x: -26, y: -30, width: 700, height: 120 }],
  },
  groups: new Map(),
  heights: new Map([['a', 90]]),
  unfolded: new Set(['a', 'b']),
  focus: 'a',
  way: null,
  column: null,
  found: new Set(),
  marked: null,
  follow: () => undefined,
  open: () => undefined,
  unfold: () => undefined,
  toggle: () => undefined,
};

describe('what is drawn', () => {
  it('says where its edges begin and end, and how large it is, before it is drawn: each edge has both its ends', () => {
    const nodes = new Map(toNodes(scene).map((one) => [one.id, one]));
    expect([...nodes.values()].every(({ measured, handles }) => measured && handles)).toBe(true);
    expect(nodes.get('a')?.measured).toEqual({ width: NODE_WIDTH, height: 90 });
    expect(nodes.get('b')?.position).toEqual({ x: 326, y: 40 });
    for (const edge of toEdges(answer, scene.unfolded, null)) {
      const end = (id: string, handle: string | null | undefined, type: 'source' | 'target') =>
        nodes.get(id)?.handles?.find((one) => one.id === handle && one.type === type);
      expect(end(edge.source, edge.sourceHandle, 'source'), edge.id).toBeDefined();
      expect(end(edge.target, edge.targetHandle, 'target'), edge.id).toBeDefined();
    }
    const second = nodes.get('a')?.handles?.find(({ id }) => id === 'out-a.y');
    expect((second?.y ?? 0) + (second?.height ?? 0) / 2).toBe(COLUMNS_FROM + 1.5 * COLUMN);
    expect(nodes.get('c')?.handles?.map(({ id, y, height = 0 }) => [id, y + height / 2])).toEqual([
      ['in', HEAD / 2],
      ['out', HEAD / 2],
    ]);
  });

  it('leads to columns only between unfolded tables where it is told between tables', () => {
    const ends = (edges: ReturnType<typeof toEdges>) =>
      edges.map(({ sourceHandle, targetHandle }) => [sourceHandle, targetHandle]);
    expect(ends(toEdges(answer, scene.unfolded, null)).at(-1)).toEqual(['out-b.x', 'in']);
    expect(ends(toEdges({ ...answer, coarse: true }, scene.unfolded, null))).toEqual([
      ['out-a.x', 'in-b.x'],
      ['out-a.y', 'in-b.y'],
      ['out', 'in'],
    ]);
  });
});
