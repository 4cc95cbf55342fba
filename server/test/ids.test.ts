import { expect, it } from 'vitest';
import { newId } from '../src/platform/ids.ts';

it('new ids are UUIDs of version 7 that only grow, also when the clock is set back', () => {
  const now = Date.now;
  try {
    const ids = Array.from({ length: 5000 }, (_, index) => {
      if (index === 2500) Date.now = () => now() - 3_600_000;
      return newId();
    });
    expect(ids.every((id) => /^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/.test(id))).toBe(
      true,
    );
    expect([...ids].sort()).toEqual(ids);
    expect(new Set(ids).size).toBe(ids.length);
  } finally {
    Date.now = now;
  }
});
