import { describe, expect, it } from 'vitest';
import { doneWith } from './askedWords.ts';

describe('what statements do with a column', () => {
  it('is told in one order, whatever order it came in', () => {
    expect(doneWith(['filter', 'shown', 'join'])).toBe('shows it, joins by it, filters by it');
    expect(doneWith(['written'])).toBe('writes into it');
    expect(doneWith([])).toBe('');
  });
});
