import { describe, expect, it } from 'vitest';
import { choiceOf, type OutlineNode, toggled, toTree, visibleNodes } from './outlineTree.ts';

const items = ['mart.sales', 'mart', 'core', 'core.passenger', 'core.booking', 'lonely.one'].map((path) => ({
  path,
  kind: path.includes('.') ? 'table' : 'schema',
}));
const tree = toTree(items, '.');
const node = (path: string): OutlineNode => {
  const found = visibleNodes(tree, new Set(), path).find((entry) => entry.path === path);
  if (!found) throw new Error(path);
  return found;
};

describe('the tree of what a source holds', () => {
  it('puts each thing into what holds it, in order of names', () => {
    expect(tree.map((entry) => [entry.path, entry.children.map((child) => child.name)])).toEqual([
      ['core', ['booking', 'passenger']],
      ['lonely.one', []],
      ['mart', ['sales']],
    ]);
  });

  it('shows what is opened', () => {
    expect(visibleNodes(tree, new Set(['core']), '').map((entry) => entry.path)).toEqual([
      'core',
      'core.booking',
      'core.passenger',
      'lonely.one',
      'mart',
    ]);
  });

  it('shows what fits a search, with what it lies in', () => {
    expect(visibleNodes(tree, new Set(), 'SALES').map((entry) => entry.path)).toEqual(['mart', 'mart.sales']);
    expect(visibleNodes(tree, new Set(), 'nothing')).toEqual([]);
  });

  it('makes ten thousand rows', () => {
    const many = Array.from({ length: 10_000 }, (_, index) => ({ path: `s${index % 100}.t${index}`, kind: 'table' }));
    expect(
      visibleNodes(
        toTree([...many, ...Array.from({ length: 100 }, (_, index) => ({ path: `s${index}`, kind: 'schema' }))], '.'),
        new Set(),
        't',
      ).length,
    ).toBe(10_100);
  });
});

describe('choosing', () => {
  it('takes the place of what lies in it', () => {
    expect(toggled(['core.booking', 'mart'], node('core'), '.')).toEqual(['core', 'mart']);
    expect(toggled(['core', 'mart'], node('core'), '.')).toEqual(['mart']);
  });

  it('tells chosen, within, partly and not apart', () => {
    const chosen = new Set(['core', 'mart.sales']);
    expect(['core', 'core.booking', 'mart', 'lonely.one'].map((path) => choiceOf(chosen, node(path), '.'))).toEqual([
      'chosen',
      'within',
      'partly',
      'not',
    ]);
  });
});
