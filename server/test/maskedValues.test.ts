import { createHash } from 'node:crypto';
import { MASKS, type Mask, maskedValue } from '@idrel/core/access';
import fc from 'fast-check';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DIGEST_SETTING, maskedExpression } from '../../core/src/access/masks.ts';
import { urlOf } from './place.ts';

const KEY = '6b6579';
const digest = (text: string) =>
  createHash('sha256')
    .update(KEY + text)
    .digest('hex');
let client: pg.Client;
beforeAll(async () => {
  client = new pg.Client({ connectionString: urlOf('postgres') });
  await client.connect();
  await client.query('select set_config($1, $2, false)', [DIGEST_SETTING, KEY]);
  await client.query("set datestyle = 'ISO, YMD'");
});
afterAll(() => client.end());

/** What the database gives in a value's place, and the value as it writes it. */
const inDatabase = async (mask: Mask, value: string | null, type: 'text' | 'date' | 'timestamp') => {
  const { rows } = await client.query<{ masked: string | null; written: string | null }>(
    `select (${maskedExpression({ name: 'v', mask }, 't')})::text as masked, t.v::text as written from (select $1::${type} as v) t`,
    [value],
  );
  return rows[0] as { masked: string | null; written: string | null };
};

describe('a value that is hidden here', () => {
  it('is hidden as the database hides it', async () => {
    const texts = fc.option(
      fc.oneof(
        fc.string({ unit: 'binary', maxLength: 12 }).filter((text) => !/[\0\p{Cs}]/u.test(text)),
        fc.constantFrom('', 'abc', 'abcd', '👩‍👩‍👧', '𝒜𝒷𝒸𝒹', '2026-11-02'),
      ),
      { nil: null },
    );
    await fc.assert(
      fc.asyncProperty(texts, fc.constantFrom<Mask>('blank', 'partial', 'hash'), async (text, mask) => {
        expect(maskedValue(mask, text, digest)).toBe((await inDatabase(mask, text, 'text')).masked);
      }),
      { numRuns: 400 },
    );
    const days = fc.date({ min: new Date('0001-01-01'), max: new Date('9999-12-31'), noInvalidDate: true });
    await fc.assert(
      fc.asyncProperty(days, fc.constantFrom('date' as const, 'timestamp' as const), async (day, type) => {
        const { masked, written } = await inDatabase('year', day.toISOString().slice(0, 19), type);
        expect(maskedValue('year', written, digest)).toBe(masked);
      }),
      { numRuns: 100 },
    );
  });

  it('tells nothing where there is no year, and no mask leaves the value as it is', () => {
    for (const odd of ['19800203', 'SECRET', '1980-02-031', '80-02-03', ''])
      expect(maskedValue('year', odd, digest)).toBeNull();
    expect(maskedValue(null, 'plain', digest)).toBe('plain');
    for (const mask of Object.keys(MASKS) as Mask[]) expect(maskedValue(mask, null, digest)).toBeNull();
  });
});
