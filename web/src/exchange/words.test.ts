import { PACES as ALL } from '@idrel/contract/exchange';
import { describe, expect, it } from 'vitest';
import { PACE_WORDS, PACES, toldOf } from './words.ts';

describe('words', () => {
  it('say what a webhook is told of', () => {
    const all = { kinds: [], domainId: null, domain: null, filter: null };
    expect(toldOf(all)).toBe('everything');
    expect(toldOf({ ...all, kinds: ['table', 'term'], domainId: 'd', domain: 'Travel', filter: 'tag:gold' })).toBe(
      'table, term in Travel and below of what tag:gold finds',
    );
    expect(toldOf({ ...all, domainId: 'd' })).toBe('everything in a domain that is gone');
  });

  it('say how soon somebody is told, for each way that there is', () => {
    expect(PACES).toEqual(ALL);
    expect(PACES.map((pace) => PACE_WORDS[pace])).toEqual(['at once', 'each morning', 'on Mondays']);
  });
});
