import { describe, expect, it } from 'vitest';
import { judge } from './judge.ts';

const rule = (pattern: string) => ({
  value: { kind: 'pattern', pattern, caseless: false } as const,
  checksum: 'none' as const,
  namePattern: '',
});

describe('examples on the bench', () => {
  it('are judged by the draft, and suggest patterns', () => {
    const judged = judge({
      rule: rule('[A-Z]{2}\\d+'),
      values: [
        { value: 'AB12', is: true },
        { value: 'CD3456', is: true },
        { value: '99', is: false },
        { value: 'x', is: null },
      ],
    });
    expect(judged).toMatchObject({ problem: null, taken: [true, true, false, false] });
    expect(judged.proposals[0]).toMatchObject({ missed: 0, wrong: 0 });
  });

  it('are kept when the draft cannot be read, with what is wrong', () => {
    const judged = judge({ rule: rule('(a'), values: [{ value: 'a', is: true }] });
    expect(judged.problem).toEqual({ field: 'value.pattern', message: expect.stringContaining('cannot be read') });
    expect(judged.taken).toEqual([false]);
    expect(judged.proposals.length).toBeGreaterThan(0);
  });
});
