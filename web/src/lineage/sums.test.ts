import type { ImpactRow } from '@idrel/contract/lineage';
import { expect, it } from 'vitest';
import { NOBODY, sumsOf, valuesOf } from './sums.ts';

const row = (name: string, owners: string[], kind: ImpactRow['kind'] = 'table', source = 'Warehouse'): ImpactRow => ({
  id: name,
  kind,
  name,
  path: name,
  source,
  domain: source === 'Warehouse' ? 'Fleet' : 'Freight',
  standing: 'unreviewed',
  within: null,
  matches: false,
  distance: 1,
  way: [],
  owners,
  level: null,
  how: 'copied',
});
const rows = [row('a', ['Ida']), row('b', ['Ida', 'Bo'], 'view'), row('c', [], 'table', 'Desk')];

it('an impact list is summed by owner, domain, kind and source; of two owners each counts, of none nobody', () => {
  expect(sumsOf(rows, 'owner')).toEqual([
    { value: 'Ida', rows: 2 },
    { value: 'Bo', rows: 1 },
    { value: NOBODY, rows: 1 },
  ]);
  expect(sumsOf(rows, 'kind')).toEqual([
    { value: 'table', rows: 2 },
    { value: 'view', rows: 1 },
  ]);
  expect(sumsOf(rows, 'source').map(({ value }) => value)).toEqual(['Warehouse', 'Desk']);
  expect(rows.filter((one) => valuesOf(one, 'owner').includes(NOBODY)).map(({ id }) => id)).toEqual(['c']);
  expect(sumsOf(rows, 'domain').map(({ value }) => value)).toEqual(['Fleet', 'Freight']);
  expect(sumsOf([], 'owner')).toEqual([]);
});
