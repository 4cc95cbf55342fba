import { describe, expect, it } from 'vitest';
import { ASSET_KINDS, isAssetKind, type KindTraits, kindsThat } from './index.ts';

const TRAITS: readonly (keyof KindTraits)[] = ['holdsRows', 'levelled', 'holdsOthers', 'queried', 'pushed'];

describe('kinds of assets', () => {
  it('are told apart by what is true of them, in one order', () => {
    const order = Object.keys(ASSET_KINDS);
    for (const trait of TRAITS) {
      const kinds = kindsThat(trait);
      expect(kinds.length, trait).toBeGreaterThan(0);
      expect(kinds, trait).toEqual(order.filter((kind) => (kinds as readonly string[]).includes(kind)));
    }
    expect(kindsThat('holdsRows')).toEqual(['table', 'view', 'materialised view', 'foreign table', 'file', 'file set']);
    // What the gateway reads holds rows, and what holds rows has a level.
    const has = (trait: keyof KindTraits) => new Set<string>(kindsThat(trait));
    for (const kind of kindsThat('queried')) expect(has('holdsRows')).toContain(kind);
    for (const kind of kindsThat('holdsRows')) expect(has('levelled')).toContain(kind);
  });

  it('are known by their names alone', () => {
    expect(isAssetKind('file set')).toBe(true);
    for (const word of ['Table', 'toString', '', 'source']) expect(isAssetKind(word)).toBe(false);
  });
});
