import { describe, expect, it } from 'vitest';
import { ROWS, without } from './leftOut.ts';
import type { ShownLineage } from './shown.ts';

const node = (id: string, kind: string) => ({ id, path: id, source: 'Warehouse', columns: [], kind });
const flow = (id: string, from: string[], to: string[]) => ({
  id,
  path: id,
  source: 'Warehouse',
  kind: 'flow',
  statement: null,
  from,
  to,
});
const link = (fromTable: string, toTable: string, through: string | null = null): ShownLineage['links'][number] => ({
  from: `${fromTable}.x`,
  to: `${toTable}.x`,
  fromTable,
  toTable,
  kind: 'copied',
  wrong: false,
  flow: through,
  change: null,
});
const PICTURE = {
  nodes: [
    node('passenger', 'table'),
    node('booking', 'table'),
    node('totals', 'view'),
    node('by_day', 'view'),
    node('day', 'table'),
  ],
  flows: [flow('load', ['passenger', 'booking'], ['by_day']), flow('tidy', ['passenger'], ['booking'])],
  links: [
    link('passenger', 'booking', 'tidy'),
    link('passenger', 'by_day', 'load'),
    link('booking', 'by_day', 'load'),
    link('by_day', 'totals'),
    link('day', 'totals'),
  ],
  influences: [{ from: 'day.x', fromTable: 'day', toTable: 'by_day', kind: 'join' as const, change: null }],
};
const NONE = new Set<string>();
const ids = ({ nodes }: typeof PICTURE) => nodes.map(({ path }) => path).sort();
const ways = ({ links }: typeof PICTURE) =>
  links.map(({ fromTable, toTable, flow: by }) => [fromTable, by, toTable].filter(Boolean).join(' > '));

describe('a picture without some of it', () => {
  it('leaves out kinds of edges and of assets with what leads to them, never what is looked at', () => {
    expect(without(PICTURE, 'totals', NONE, null)).toBe(PICTURE);
    const tables = without(PICTURE, 'totals', new Set(['view']), null);
    expect(ids(tables)).toEqual(['booking', 'day', 'passenger', 'totals']);
    expect(ways(tables)).toEqual(['passenger > tidy > booking', 'day > totals']);
    const values = without(PICTURE, 'totals', new Set([ROWS, 'flow']), null);
    expect([values.influences.length, values.flows.length, values.links.length]).toEqual([0, 0, 5]);
    expect(values.links.every(({ flow: by }) => by === null)).toBe(true);
    expect(without(PICTURE, 'totals', new Set(['copied']), null).links).toEqual([]);
  });

  it('keeps only what fits where that is asked for', () => {
    const fitting = without(PICTURE, 'totals', NONE, new Set(['passenger', 'by_day']));
    expect(ids(fitting)).toEqual(['by_day', 'passenger', 'totals']);
    expect(ways(fitting)).toEqual(['passenger > load > by_day', 'by_day > totals']);
  });
});
