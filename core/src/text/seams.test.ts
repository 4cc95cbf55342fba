import { describe, expect, it } from 'vitest';
import { isRunTogether, isShortFor, romanised } from './index.ts';

describe('abbreviations', () => {
  it.each([
    ['eml', 'email', true],
    ['email', 'email', true],
    ['cust', 'customer', true],
    ['cstmr', 'customer', true],
    ['psngr', 'passenger', true],
    // Of something else that begins so: its last consonant is missing, or a vowel stands in the middle.
    ['cst', 'customer', false],
    ['cuter', 'customer', false],
    ['mail', 'email', false],
    ['em', 'email', false],
    ['emails', 'email', false],
  ])('%s for %s: %s', (text, word, short) => expect(isShortFor(text, word)).toBe(short));
});

describe('names without a seam', () => {
  const passenger = ['passenger', 'pax', 'guest'];
  it.each([
    ['tblpaxeml', [passenger, ['email']], true],
    ['paxemail', [passenger, ['email']], true],
    ['emlpsngr', [passenger, ['email']], true],
    ['passengeremail', [passenger, ['email']], true],
    ['paxemlid', [passenger, ['email']], true],
    ['custordnr', [['customer'], ['order']], true],
    // One of the words is missing, or something else is there too.
    ['tblpax', [passenger, ['email']], false],
    ['paxphoneeml', [passenger, ['email']], false],
    ['paxemlvalue', [passenger, ['email']], false],
    ['paxpax', [passenger, ['email']], false],
    ['email', [['email']], false],
  ] as const)('%s of %j: %s', (name, words, together) => expect(isRunTogether(name, words)).toBe(together));

  it('are read in no time, whatever somebody asks for', () => {
    const many = Array.from({ length: 4 }, () => ['a'.repeat(40), 'a', 'aa', 'aaa', 'aaaa']);
    for (const length of [36, 199]) expect(isRunTogether(`${'a'.repeat(length)}bbbb`, many)).toBe(false);
  });
});

describe('words of other scripts', () => {
  it.each([
    ['кунде', ['кунде', 'kunde']],
    ['πελατης', ['πελατης', 'pelatis']],
    ['客户', ['客户', 'kehu']],
    ['þor', ['þor', 'thor']],
    ['kunde', ['kunde']],
    ['2026', ['2026']],
  ])('%s is found as %j', (word, spelled) => expect(romanised(word)).toEqual(spelled));
});
