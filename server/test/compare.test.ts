import { type FoundAsset, keyOf, type Structure } from '@idrel/readers/connectors';
import { coverOf, cutToScope } from '@idrel/readers/scans';
import { describe, expect, it } from 'vitest';
import { compareUnits, type KnownAsset, type KnownHolder, sortUnits, toUnits } from '../src/scanning/compare.ts';

const found = (path: string, more: Partial<FoundAsset> = {}): FoundAsset => {
  const names = ['db', ...path.split('.').filter(Boolean)];
  const kind = (['database', 'schema', 'table', 'column'] as const)[names.length - 1] ?? 'column';
  return {
    key: keyOf(...names),
    parentKey: names.length > 1 ? keyOf(...names.slice(0, -1)) : null,
    kind,
    name: names.at(-1) ?? '',
    depth: names.length - 1,
    position: 0,
    comment: null,
    native: kind === 'column' ? { type: 'text', nullable: true } : {},
    stats: {},
    ...more,
  };
};
const known = (asset: FoundAsset, more: Partial<KnownAsset> = {}): KnownAsset => ({
  ...asset,
  id: asset.key,
  description: null,
  gone: false,
  ...more,
});
const holder = (asset: FoundAsset, print: string | null, gone = false): KnownHolder => ({
  id: asset.key,
  key: asset.key,
  kind: asset.kind,
  print,
  mark: null,
  gone,
});
const everything = () => true;

describe('units', () => {
  const [table, a, b] = [found('s.t'), found('s.t.a', { position: 1 }), found('s.t.b', { position: 2 })];
  const [unit] = toUnits([table, a, b]);

  it('have one digest with their columns; it changes with anything that was read', () => {
    const print = (...assets: FoundAsset[]) => toUnits(assets)[0]?.print;
    expect(unit?.print).toMatch(/^[0-9a-f]{32}$/);
    expect(print(table, a, b)).toBe(unit?.print);
    const others = [
      print(table, a),
      print({ ...table, comment: 'x' }, a, b),
      print({ ...table, stats: { rows: 1 } }, a, b),
      print(table, { ...a, native: { type: 'int', nullable: true } }, b),
      print(table, { ...a, comment: 'x' }, b),
      print(table, { ...a, position: 3 }, b),
    ];
    expect(new Set([unit?.print, ...others]).size).toBe(others.length + 1);
  });

  it('are sorted by digest: the same, differing, new, gone; what was not looked for is not gone', () => {
    const other = found('s.other');
    const sort = (before: KnownHolder[], covers: (key: string) => boolean = everything) => {
      const { fresh, differing, gone } = sortUnits(before, toUnits([table, a, b]), covers);
      return [fresh.length, differing.length, gone.length];
    };
    expect(sort([])).toEqual([1, 0, 0]);
    expect(sort([holder(table, unit?.print ?? '')])).toEqual([0, 0, 0]);
    expect(sort([holder(table, null)])).toEqual([0, 1, 0]);
    expect(sort([holder(table, unit?.print ?? '', true)])).toEqual([0, 1, 0]);
    expect(sort([holder(other, 'x')])).toEqual([1, 0, 1]);
    expect(sort([holder(other, 'x')], (key) => key !== other.key)).toEqual([1, 0, 0]);
    expect(sort([holder(other, 'x', true)])).toEqual([1, 0, 0]);
  });

  it('that differ are compared asset by asset', () => {
    const before = [
      known(table),
      known(a),
      known({ ...b, native: { type: 'int', nullable: true } }),
      known(found('s.t.c')),
    ];
    const [now] = toUnits([table, a, b, found('s.t.d')]);
    const changes = compareUnits(now ? [now] : [], new Map(before.map((asset) => [asset.key, asset])));
    expect(changes.fresh.map((asset) => asset.name)).toEqual(['d']);
    expect(changes.changed).toEqual([{ found: b, what: ['type: int → text'] }]);
    expect(changes.gone.map((asset) => asset.key)).toEqual([keyOf('db', 's', 't', 'c')]);
    // The table is written for its digest, b for its type; a is left alone.
    expect(changes.rewrite.map((entry) => entry.found.name)).toEqual(['t', 'b']);
  });

  it('tell figures that always change from changes', () => {
    const [now] = toUnits([{ ...table, stats: { rows: 7 } }, a]);
    const changes = compareUnits(
      now ? [now] : [],
      new Map([known(table), known(a)].map((asset) => [asset.key, asset])),
    );
    expect([changes.changed, changes.gone, changes.fresh]).toEqual([[], [], []]);
    expect(changes.rewrite).toHaveLength(1);
  });

  it('tell what came back, with what changed meanwhile', () => {
    const [now] = toUnits([table, a]);
    const changes = compareUnits(
      now ? [now] : [],
      new Map(
        [known(table, { gone: true }), known({ ...a, comment: 'old' }, { gone: true })].map((asset) => [
          asset.key,
          asset,
        ]),
      ),
    );
    expect(changes.back.map((entry) => [entry.found.name, entry.what])).toEqual([
      ['t', []],
      ['a', ['comment']],
    ]);
  });
});

describe('a scope over a structure', () => {
  const assets = ['', 's', 's.t', 's.t.a', 's.tmp', 's.tmp.b', 'r', 'r.u', 'r.u.c'].map((path) => found(path));
  const structure: Structure = {
    assets,
    sampleable: assets
      .filter((asset) => asset.kind === 'table')
      .map((asset) => ({ key: asset.key, label: asset.name, columns: [], estimatedRows: 0 })),
  };
  const cut = (scope: Parameters<typeof coverOf>[0]) => {
    const { structure: kept, notCovered } = cutToScope(structure, 'postgresql', coverOf(scope, 'postgresql').covers);
    return {
      kept: kept.assets.map((asset) => asset.name),
      sampled: kept.sampleable.map((table) => table.label),
      left: notCovered,
    };
  };

  it('keeps what it covers with what that lies in, and names the rest', () => {
    expect(cut({ cover: 'chosen', chosen: ['s.t'], include: [], exclude: [] })).toEqual({
      kept: ['db', 's', 't', 'a'],
      sampled: ['t'],
      left: { count: 3, paths: ['s.tmp', 'r', 'r.u'] },
    });
    expect(cut({ cover: 'everything', chosen: [], include: [], exclude: ['s.tmp'] })).toEqual({
      kept: ['db', 's', 't', 'a', 'r', 'u', 'c'],
      sampled: ['t', 'u'],
      left: { count: 1, paths: ['s.tmp'] },
    });
  });

  it('is whole when nothing is left out', () => {
    expect(coverOf(undefined, 'folder').whole).toBe(true);
    expect(coverOf({ cover: 'everything', chosen: [], include: [], exclude: [] }, 'folder').whole).toBe(true);
    expect(coverOf({ cover: 'everything', chosen: [], include: [], exclude: ['x'] }, 'folder').whole).toBe(false);
  });
});
