import { describe, expect, it } from 'vitest';
import { carriedBy, howCarried, type Place } from './carried.ts';

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
    const place = (id: string, kind: string, parentId: string | null, gone = false): [string, Place] => [
      id,
      { id, kind, parentId, gone },
    ];
    const places = new Map([
      place('t', 'table', null),
      place('a', 'column', 't'),
      place('b', 'column', 't', true),
      place('r', 'report', null),
    ]);
    const said = (assetId: string) => ({ assetId, classKey: 'email', found: 'certain' as const, decided: null });
    const rows = carriedBy(places, [said('a'), said('b'), said('r'), said('elsewhere')]);
    expect(rows.map(({ assetId, fromId, via }) => [assetId, fromId, via])).toEqual([
      ['a', 'a', 'itself'],
      ['t', 'a', 'inside'],
      ['b', 'b', 'itself'],
      ['r', 'r', 'itself'],
    ]);
  });
});
