import { describe, expect, it } from 'vitest';
import { type Carrier, carriedBy, howCarried } from './carried.ts';

describe('a class', () => {
  it.each([
    ['certain', null, 'certain'],
    ['to-settle', null, 'to-settle'],
    ['confirmed', null, 'confirmed'],
    ['dismissed', null, undefined],
    [null, null, undefined],
    [null, 'confirmed', 'person'],
    ['to-settle', 'confirmed', 'confirmed'],
    ['dismissed', 'confirmed', 'confirmed'],
    ['certain', 'dismissed', undefined],
    [null, 'dismissed', undefined],
  ] as const)('found %s and decided %s is carried as %s', (found, decided, how) => {
    expect(howCarried({ found, decided })).toBe(how);
  });

  it('is carried by a table as long as its column is there', () => {
    const carrier = (id: string, kind: string, parentId: string | null, gone = false): [string, Carrier] => [
      id,
      { id, kind, parentId, gone },
    ];
    const carriers = new Map([
      carrier('t', 'table', null),
      carrier('a', 'column', 't'),
      carrier('b', 'column', 't', true),
      carrier('r', 'report', null),
    ]);
    const said = (assetId: string) => ({ assetId, classKey: 'email', found: 'certain' as const, decided: null });
    const rows = carriedBy(carriers, [said('a'), said('b'), said('r'), said('elsewhere')]);
    expect(rows.map(({ assetId, fromId, via }) => [assetId, fromId, via])).toEqual([
      ['a', 'a', 'itself'],
      ['b', 'b', 'itself'],
      ['r', 'r', 'itself'],
      ['t', 'a', 'inside'],
    ]);
  });
});
