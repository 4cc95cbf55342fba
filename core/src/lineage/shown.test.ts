import { describe, expect, it } from 'vitest';
import { type ShownLineage, toMermaid, toRows } from './index.ts';

const column = (id: string, name: string) => ({ id, name, type: 'text' });
const shown: ShownLineage = {
  nodes: [
    { id: 'a', path: 'core.sale', source: 'Shop', columns: [column('a1', 'amount'), column('a2', 'day')] },
    { id: 'b', path: 'mart."odd #1"', source: 'Warehouse <new>', columns: [column('b1', 'total')] },
    { id: 'c', path: 'mart.days', source: 'Warehouse <new>', columns: [] },
  ],
  flows: [{ id: 'f', path: 'jobs/nightly', source: 'Jobs', statement: 'insert …', from: ['a'], to: ['b'] }],
  links: [
    { from: 'a1', to: 'b1', fromTable: 'a', toTable: 'b', kind: 'aggregated', wrong: false, flow: 'f', change: null },
    { from: 'b1', to: 'c', fromTable: 'b', toTable: 'c', kind: 'copied', wrong: true, flow: null, change: 'went' },
  ],
  influences: [
    { from: 'a2', fromTable: 'a', toTable: 'b', kind: 'filter', change: null },
    { from: 'a2', fromTable: 'a', toTable: 'c', kind: 'join', change: 'came' },
    { from: 'a2', fromTable: 'a', toTable: 'c', kind: 'unused', change: null },
  ],
};

describe('a picture as a file', () => {
  it('is a flowchart with a frame for each source, in which no name means anything else', () => {
    expect(toMermaid(shown)).toBe(`flowchart LR
  subgraph s0["Shop"]
    n0["core.sale"]
  end
  subgraph s1["Warehouse #60;new#62;"]
    n1["mart.#34;odd #35;1#34;"]
    n2["mart.days"]
  end
  subgraph s2["Jobs"]
    n3(["jobs/nightly"])
  end
  n0 --> n3
  n3 -->|"aggregated"| n1
  n1 -->|"copied, wrong, went"| n2
  n0 -.->|"join, came"| n2
`);
  });

  it('has a row for each edge, also for what only decides rows', () => {
    expect(toRows(shown)).toEqual([
      ['core.sale.amount', 'Shop', 'mart."odd #1".total', 'Warehouse <new>', 'aggregated', 'jobs/nightly', ''],
      [
        'mart."odd #1".total',
        'Warehouse <new>',
        'mart.days',
        'Warehouse <new>',
        'copied',
        '',
        'said to be wrong, went',
      ],
      ['core.sale.day', 'Shop', 'mart."odd #1"', 'Warehouse <new>', 'decides rows: filter', '', ''],
      ['core.sale.day', 'Shop', 'mart.days', 'Warehouse <new>', 'decides rows: join', '', 'came'],
      ['core.sale.day', 'Shop', 'mart.days', 'Warehouse <new>', 'read, without effect', '', ''],
    ]);
  });
});
