import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { keepable, keepableName, keepableWithin, NAME_MOST, nameWords } from './index.ts';

describe('texts that can be kept', () => {
  it.each([
    ['plain Ærø 🚢', 'plain Ærø 🚢'],
    ['a\0b', 'a␀b'],
    ['\uD83D', '\uFFFD'],
    ['\uDEA2x\uD83D', '\uFFFDx\uFFFD'],
  ])('%j is kept as %j', (text, kept) => expect(keepable(text)).toBe(kept));

  it('hold no more odd characters, and change nothing else', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (text) => {
        expect(keepable(text)).not.toContain('\0');
        expect(Buffer.from(keepable(text), 'utf8').toString('utf8')).toBe(keepable(text));
        expect(keepable(keepable(text))).toBe(keepable(text));
      }),
    );
  });

  it('names are cut and stay different; parts of keys are never parted again', () => {
    const [one, other] = [`${'x'.repeat(5000)}a`, `${'x'.repeat(5000)}b`].map(keepableName);
    expect([one?.length, one === other]).toEqual([NAME_MOST, false]);
    expect(keepableName('a\u001fb')).toBe('a␟b');
    expect(keepableName('short')).toBe('short');
  });

  it('are kept within values of any form, which stay the same where nothing is odd', () => {
    const same = { a: ['x', 1, null], b: { c: true } };
    expect(keepableWithin(same)).toBe(same);
    expect(keepableWithin({ 'k\0': ['\0', { x: 'y\uD800' }] })).toEqual({ 'k␀': ['␀', { x: 'y\uFFFD' }] });
  });

  it('words of any length are found by their beginning', () => {
    expect(nameWords('z'.repeat(3000)).map((word) => word.length)).toEqual([200]);
  });
});
