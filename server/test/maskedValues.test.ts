import { createHash } from 'node:crypto';
import { DIGEST_SETTINGS, type Digest, type Keyed, type Mask, maskedValue } from '@idrel/core/access';
import fc from 'fast-check';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { maskedExpression } from '../../core/src/access/masks.ts';
import { urlOf } from './place.ts';

const KEYS: Readonly<Record<Keyed, string>> = { installation: '6b6579', organisation: '6f7267' };
const digest: Digest = (text, keyed) =>
  createHash('sha256')
    .update(KEYS[keyed] + text)
    .digest('hex');
let client: pg.Client;
let today: string;
beforeAll(async () => {
  client = new pg.Client({ connectionString: urlOf('postgres') });
  await client.connect();
  for (const [keyed, setting] of Object.entries(DIGEST_SETTINGS))
    await client.query('select set_config($1, $2, false)', [setting, KEYS[keyed as Keyed]]);
  await client.query("set datestyle = 'ISO, YMD'");
  const { rows } = await client.query<{ today: string }>('select current_date::text as today');
  today = rows[0]?.today ?? '';
});
afterAll(() => client.end());

type Type = 'text' | 'date' | 'timestamp' | 'numeric' | 'integer' | 'double precision';
const columnOf = (mask: Mask | null, type: Type) => ({ id: "the column's", name: 'v', type, mask });

/** What the database gives in a value's place, and the value as it writes it. */
const inDatabase = async (mask: Mask | null, value: string | null, type: Type) => {
  const { rows } = await client.query<{ masked: string | null; written: string | null }>(
    `select (${maskedExpression(columnOf(mask, type), 't')})::text as masked, t.v::text as written from (select $1::${type} as v) t`,
    [value],
  );
  return rows[0] as { masked: string | null; written: string | null };
};
const here = (mask: Mask | null, value: string | null, type: Type) =>
  maskedValue(columnOf(mask, type), value, digest, today);

const keyed = fc.constantFrom<Keyed>('installation', 'organisation');
const TEXTS: fc.Arbitrary<Mask> = fc.oneof(
  fc.constant<Mask>({ kind: 'blank' }),
  fc
    .string({ minLength: 1, maxLength: 8 })
    .filter((text) => !text.includes('\0'))
    .map((text): Mask => ({ kind: 'fixed', text })),
  fc
    .tuple(fc.nat(6), fc.nat(6))
    .filter(([first, last]) => first + last > 0)
    .map(([first, last]): Mask => ({ kind: 'partial', first, last })),
  keyed.map((by): Mask => ({ kind: 'digest', keyed: by })),
  keyed.map((by): Mask => ({ kind: 'substitute', keyed: by })),
  fc.constant<Mask>({ kind: 'general', to: 'host', step: null }),
  fc.integer({ min: 1, max: 6 }).map((step): Mask => ({ kind: 'general', to: 'district', step })),
);
const texts = fc.option(
  fc.oneof(
    fc.string({ unit: 'binary', maxLength: 12 }).filter((text) => !/[\0\p{Cs}]/u.test(text)),
    fc.string({ unit: 'grapheme-ascii', minLength: 30, maxLength: 80 }),
    fc.constantFrom(
      '',
      'abc',
      'abcd',
      '👩‍👩‍👧',
      '𝒜𝒷𝒸𝒹',
      '2026-11-02',
      'Ærø@øy.no',
      'a@b@c',
      '@',
      'N-0012',
      'x'.repeat(700),
    ),
  ),
  { nil: null },
);

describe('a value that is hidden here', () => {
  it('is hidden as the database hides it', async () => {
    await fc.assert(
      fc.asyncProperty(texts, TEXTS, async (text, mask) => {
        expect(here(mask, text, 'text')).toBe((await inDatabase(mask, text, 'text')).masked);
      }),
      { numRuns: 600 },
    );
  });

  it('days are told as roughly as the database tells them', async () => {
    const days = fc.date({ min: new Date('0001-01-01'), max: new Date('9999-12-31'), noInvalidDate: true });
    const masks = fc.oneof(
      fc.constantFrom<Mask>({ kind: 'general', to: 'year', step: null }, { kind: 'general', to: 'month', step: null }),
      fc.integer({ min: 2, max: 50 }).map((step): Mask => ({ kind: 'general', to: 'age', step })),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.option(
          fc.oneof(days, fc.date({ min: new Date('1920-01-01'), max: new Date('2030-12-31'), noInvalidDate: true })),
          { nil: null },
        ),
        fc.constantFrom('date' as const, 'timestamp' as const),
        masks,
        async (day, type, mask) => {
          const { masked, written } = await inDatabase(mask, day?.toISOString().slice(0, 19) ?? null, type);
          expect(here(mask, written, type)).toBe(masked);
        },
      ),
      { numRuns: 300 },
    );
    expect((await inDatabase({ kind: 'general', to: 'age', step: 10 }, 'infinity', 'date')).masked).toBeNull();
  });

  it('numbers are rounded and put off as the database does, exactly', async () => {
    const masks = fc.oneof(
      fc
        .constantFrom(0.01, 0.5, 0.3, 1, 5, 7, 100, 2500, 1e12)
        .map((step): Mask => ({ kind: 'general', to: 'rounded', step })),
      fc
        .tuple(fc.constantFrom(0.01, 0.5, 3, 10, 250.75, 1e9), fc.constantFrom('unit' as const, 'percent' as const))
        .map(([spread, of]): Mask => ({ kind: 'noise', spread, of })),
      fc.integer({ min: 2, max: 50 }).map((step): Mask => ({ kind: 'general', to: 'age', step })),
    );
    const number = fc.oneof(
      fc.constant(null),
      fc.tuple(fc.bigInt({ min: -(10n ** 22n), max: 10n ** 22n }), fc.nat(9)).map(([units, scale]) => {
        const digits = `${units < 0n ? -units : units}`.padStart(scale + 1, '0');
        return `${units < 0n ? '-' : ''}${digits.slice(0, digits.length - scale)}${scale ? `.${digits.slice(-scale)}` : ''}`;
      }),
      fc.constantFrom('0', '-0', '0.5', '-0.5', '1.5', '2.50', '50', '150', '-150', '0.005'),
    );
    await fc.assert(
      fc.asyncProperty(number, masks, async (value, mask) => {
        const { masked, written } = await inDatabase(mask, value, 'numeric');
        expect(here(mask, written, 'numeric')).toBe(masked);
      }),
      { numRuns: 600 },
    );
    await fc.assert(
      fc.asyncProperty(fc.integer(), masks, async (value, mask) => {
        const { masked } = await inDatabase(mask, String(value), 'integer');
        expect(here(mask, String(value), 'integer')).toBe(masked);
        // Noise leaves whole numbers whole.
        if (mask.kind === 'noise') expect(masked).toMatch(/^-?\d+$/);
      }),
      { numRuns: 200 },
    );
    for (const odd of ['NaN', 'Infinity', '-Infinity'])
      for (const mask of [
        { kind: 'general', to: 'rounded', step: 5 },
        { kind: 'noise', spread: 5, of: 'percent' },
      ] as const)
        expect((await inDatabase(mask, odd, 'double precision')).masked).toBeNull();
  });

  it('noise stays within what is said, differs from number to number, and is the same each time', async () => {
    const mask: Mask = { kind: 'noise', spread: 10, of: 'unit' };
    const off = new Set<number>();
    for (let value = 0; value < 200; value += 1) {
      const masked = Number(here(mask, String(value), 'integer'));
      expect(Math.abs(masked - value)).toBeLessThanOrEqual(10);
      expect(here(mask, String(value), 'integer')).toBe(String(masked));
      off.add(masked - value);
    }
    expect(off.size).toBeGreaterThan(15);
  });

  it('a substitute has the shape of the value, is the same each time, and another for each key and value', () => {
    const mask = (by: Keyed): Mask => ({ kind: 'substitute', keyed: by });
    const first = here(mask('installation'), 'Aud-Inger O’Neil, +47 900 11 222', 'text') ?? '';
    expect(first).toMatch(/^[A-Z][a-z]{2}-[A-Z][a-z]{4} [A-Z][a-z][A-Z][a-z]{3}, \+\d\d \d{3} \d\d \d{3}$/);
    expect(here(mask('installation'), 'Aud-Inger O’Neil, +47 900 11 222', 'text')).toBe(first);
    expect(here(mask('organisation'), 'Aud-Inger O’Neil, +47 900 11 222', 'text')).not.toBe(first);
    const many = Array.from({ length: 300 }, (_, at) => here(mask('installation'), `+47 900 ${10_000 + at}`, 'text'));
    expect(new Set(many).size).toBeGreaterThan(295);
  });

  it('tells nothing where there is no year, and no mask leaves the value as it is', () => {
    const year: Mask = { kind: 'general', to: 'year', step: null };
    for (const odd of ['19800203', 'SECRET', '1980-02-031', '80-02-03', '']) expect(here(year, odd, 'date')).toBeNull();
    for (const odd of ['SECRET', '12,5', '1e5', ''])
      expect(here({ kind: 'general', to: 'rounded', step: 5 }, odd, 'numeric')).toBeNull();
    expect(here(null, 'plain', 'text')).toBe('plain');
    for (const mask of [
      year,
      { kind: 'digest', keyed: 'installation' },
      { kind: 'partial', first: 1, last: 0 },
    ] as const)
      expect(here(mask, null, 'text')).toBeNull();
    // A fixed text stands also where there is no value: that there is none is told by nothing.
    expect(here({ kind: 'fixed', text: 'withheld' }, null, 'text')).toBe('withheld');
  });
});
