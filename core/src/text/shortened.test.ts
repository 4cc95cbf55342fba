import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { onOneLine, shortened } from './index.ts';

describe('a text that is shortened', () => {
  it('stays as it is where it is short, and says where more follows', () => {
    expect(shortened('abc', 3)).toBe('abc');
    expect(shortened('abcd', 3)).toBe('abc …');
    expect(shortened('ab⛴️c', 3)).toBe('ab⛴ …');
    expect(shortened('ab😀c', 3)).toBe('ab …');
    expect(onOneLine(' a\n\tb  c ')).toBe('a b c');
  });

  it('holds no half of a character, wherever it is cut', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), fc.nat(20), (text, most) => {
        expect(Buffer.from(shortened(text, most)).toString()).toBe(shortened(text, most));
        expect(shortened(text, most).length).toBeLessThanOrEqual(Math.max(text.length, most + 2));
      }),
    );
  });
});
