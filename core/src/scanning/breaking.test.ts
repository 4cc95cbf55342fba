import { describe, expect, it } from 'vitest';
import { breaking } from './breaking.ts';

describe('a change that breaks what is made from it', () => {
  it.each([
    ['gone', [], 'gone'],
    ['changed', ['type: integer → text'], 'type: integer → text'],
    [
      'changed',
      ['comment', 'kind: table → view', 'nullable: false → true'],
      'kind: table → view, nullable: false → true',
    ],
    ['changed', ['nullable: true → false'], undefined],
    ['changed', ['default: 0 → 1', 'comment', 'definition'], undefined],
  ] as const)('%s, %j: %s', (change, what, told) => {
    expect(breaking(change, what)).toBe(told);
  });
});
