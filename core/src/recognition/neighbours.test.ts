import { describe, expect, it } from 'vitest';
import { recogniseTable } from './neighbours.ts';
import { recognise } from './recognise.ts';
import type { ColumnSample } from './types.ts';

const setting = { today: new Date('2026-05-31'), countries: ['GB', 'NO'] };
const many = (make: (index: number) => string) => Array.from({ length: 60 }, (_, index) => make(index));
const text = (name: string, values: string[], type: ColumnSample['type'] = 'text'): ColumnSample => ({ name, type, values });
const day = (index: number) => new Date(Date.UTC(1940 + index, index % 12, 1 + (index % 27))).toISOString().slice(0, 10);
const email = text(
  'c1',
  many((index) => `p${index}@example.org`),
);
const phone = text(
  'c2',
  many((index) => `+4722${123_400 + index}`),
);
const born = text('c3', many(day), 'date');
const price = text(
  'c4',
  many((index) => String(10 + index)),
  'integer',
);

describe('columns of one table', () => {
  it('raise weak claims of each other where the table is about persons, and say what stands beside', () => {
    const [alone] = recognise(born, setting);
    const [, , beside] = recogniseTable([email, phone, born, price], setting);
    expect(alone).toMatchObject({ classKey: 'date-of-birth', state: 'to-settle' });
    expect(beside?.[0]).toMatchObject({ classKey: 'date-of-birth' });
    expect(beside?.[0]?.confidence).toBeGreaterThan(alone?.confidence ?? 1);
    expect(beside?.[0]?.terms.at(-1)?.reason).toBe('beside it stand: E-mail address, Phone number');
  });

  it('leave what is certain, and what has nothing to do with persons, as it is', () => {
    const together = recogniseTable([email, phone, born, price], setting);
    expect(together[0]).toEqual(recognise(email, setting));
    expect(together[3]).toEqual([]);
    // One class alone beside it is not enough.
    expect(recogniseTable([email, born], setting)[1]).toEqual(recognise(born, setting));
    expect(recogniseTable([], setting)).toEqual([]);
  });
});
