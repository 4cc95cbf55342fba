import { faker, fakerDE, fakerES, fakerNB_NO } from '@faker-js/faker';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isPersonName, readDay } from './detectors/identity.ts';
import {
  DETECTORS,
  dataClass,
  levelFromClasses,
  maskExample,
  recognise,
  type Setting,
  type ValueType,
} from './index.ts';

const setting: Setting = { today: new Date('2026-11-23T00:00:00Z'), countries: ['GB', 'NO'] };
const many = (count: number, make: (index: number) => string) =>
  Array.from({ length: count }, (_, index) => make(index));
const classes = (name: string, values: (string | null)[], type: ValueType = 'text') =>
  recognise({ name, values, type }, setting).map((finding) => `${finding.classKey}:${finding.state}`);

describe.each(DETECTORS.map((detector) => [detector.id, detector] as const))('%s', (_, detector) => {
  it('accepts and rejects the values it ships with', () => {
    expect(detector.accepts.filter((value) => !detector.test(value, setting))).toEqual([]);
    expect(detector.rejects.filter((value) => detector.test(value, setting))).toEqual([]);
    expect(detector.accepts.length * detector.rejects.length).toBeGreaterThan(0);
    expect(dataClass(detector.classKey)).toBeDefined();
  });
});

describe('columns', () => {
  faker.seed(7);
  fakerDE.seed(7);
  fakerES.seed(7);
  fakerNB_NO.seed(7);

  it.each<[string, string, string[], string, ValueType?]>([
    ['e-mail under a misleading name', 'ref_2', many(80, () => faker.internet.email()), 'email:certain'],
    ['names in German', 'kunde', many(80, () => fakerDE.person.fullName()), 'person-name:certain'],
    ['family names in Spanish', 'apellido', many(80, () => fakerES.person.lastName()), 'person-name:certain'],
    [
      'addresses in Norwegian',
      'adresse',
      many(60, () => fakerNB_NO.location.streetAddress()),
      'postal-address:certain',
    ],
    [
      'birthdays',
      'date_of_birth',
      many(60, () => faker.date.birthdate().toISOString().slice(0, 10)),
      'date-of-birth:certain',
      'date',
    ],
    ['cards', 'pan', many(60, () => faker.finance.creditCardNumber('4###########L')), 'payment-card:certain'],
    ['accounts', 'account', many(60, () => faker.finance.iban()), 'iban:certain'],
    ['IP addresses', 'seen_from', many(60, () => faker.internet.ip()), 'ip-address:certain', 'other'],
    ['MAC addresses', 'device', many(60, () => faker.internet.mac()), 'mac-address:certain'],
    ['web addresses', 'more', many(60, () => faker.internet.url()), 'url:certain'],
    [
      'latitudes',
      'lat',
      many(60, () => String(faker.location.latitude({ precision: 4 }))),
      'coordinates:certain',
      'decimal',
    ],
    [
      'texts with addresses in one of twenty',
      'misc',
      many(200, (i) =>
        i % 20
          ? 'The crossing was late again by half an hour'
          : `Write to ${faker.internet.email()} when it is settled`,
      ),
      'personal-text:certain',
    ],
  ])('finds %s', (_, name, values, expected, type) => {
    expect(classes(name, values, type)).toContain(expected);
  });

  it.each<[string, string, string[], ValueType?]>([
    [
      'ticket barcodes of 16 digits without a check digit',
      'barcode',
      many(300, (i) => String(4_000_000_000_000_003n + BigInt(i) * 7_919_111n)),
    ],
    [
      'sailing codes shaped like IBANs',
      'sailing_code',
      many(100, (i) => `TF${10 + (i % 80)}KESS2026${String(100000 + i * 37)}`),
    ],
    [
      'booking references shaped like phone numbers',
      'booking_ref',
      many(100, (i) => `47 22 ${String(10 + (i % 80))} ${String(10 + (i % 70))} ${String(i).padStart(2, '0')}`),
    ],
    ['departure dates', 'departure', many(100, (i) => `2026-0${1 + (i % 9)}-1${i % 9}`), 'date'],
    ['prices', 'amount', many(100, (i) => `${10 + i}.25`), 'decimal'],
    [
      'vessel names',
      'vessel_name',
      ['Emma', 'Astrid', 'Victoria', 'Helena', 'Marie', 'Sofia', 'Ingrid', 'Laura', 'Clara', 'Anna'],
    ],
    ['states', 'status', many(100, (i) => ['confirmed', 'cancelled', 'paid'][i % 3] ?? '')],
    ['nothing at all', 'email', []],
  ])('does not take %s for personal data', (_, name, values, type) => {
    expect(classes(name, values, type)).toEqual([]);
  });

  it('says what it saw: share, distinct values, name, terms that add up, masked examples', () => {
    const values = [
      ...many(90, (i) => `person${i % 45}@example.org`),
      ...many(10, () => 'by post'),
      ...many(5, () => 'n/a'),
      null,
      '',
    ];
    const [finding] = recognise({ name: 'contact_email', values, type: 'text' }, setting);
    expect(finding).toMatchObject({
      classKey: 'email',
      share: 0.9,
      matched: 90,
      sampled: 100,
      distinct: 45,
      detector: 'email.address',
      version: '3',
      name: { verdict: 'agrees', words: ['email'] },
    });
    const odds = (finding?.terms ?? []).reduce((sum, term) => sum + term.logOdds, 0);
    expect(finding?.confidence).toBeCloseTo(1 / (1 + Math.exp(-odds)), 2);
    expect(finding?.examples[0]).toBe('p•••••••@•••••••.•••'.replace('p•••••••', 'p••••••'));
  });

  it('takes check digits that nearly all values pass as a reason against a class without any', () => {
    // Norwegian identifiers of the first nine days: eleven digits with a zero before them, many of which are also phone numbers of some country.
    const weights = [
      [3, 7, 6, 1, 8, 9, 4, 5, 2],
      [5, 4, 3, 2, 7, 6, 5, 4, 3, 2],
    ];
    const identifier = (i: number): string | undefined => {
      let digits = `0${1 + (i % 9)}${String(1 + (i % 12)).padStart(2, '0')}${String(50 + (i % 40))}${String(100 + ((i * 37) % 800))}`;
      for (const row of weights) {
        const rest = row.reduce((sum, weight, index) => sum + weight * Number(digits[index]), 0) % 11;
        if (rest === 1) return undefined;
        digits += rest === 0 ? 0 : 11 - rest;
      }
      return digits;
    };
    const values = Array.from({ length: 400 }, (_, i) => identifier(i)).filter((value) => value !== undefined);
    const everywhere = { ...setting, countries: ['GB', 'NO', 'DK', 'SE', 'DE', 'NL', 'US'] };
    const blind = recognise(
      { name: 'x', values, type: 'text' },
      everywhere,
      DETECTORS.filter((detector) => detector.classKey === 'phone'),
    );
    expect(blind.map((finding) => finding.classKey)).toContain('phone');
    const seeing = recognise({ name: 'x', values, type: 'text' }, everywhere);
    expect(seeing.map((finding) => finding.classKey)).toEqual(['national-id-no']);
    // Where many pass no check digits, nothing is decided for a person: both claims stay.
    const phones = many(200, (i) => `0${20 + (i % 60)}${String(7_000_000 + i * 7919).slice(0, 7)}`);
    const mixed = recognise({ name: 'x', values: [...values.slice(0, 100), ...phones], type: 'text' }, setting);
    expect(mixed.map((finding) => finding.classKey)).not.toContain('national-id-no');
  });

  it('takes bare digits for phone numbers by the name of their column alone, and addresses of the network never', () => {
    const everywhere = { ...setting, countries: ['GB', 'NO', 'DK', 'SE', 'DE', 'NL', 'US'] };
    const of = (name: string, values: string[], type: 'text' | 'integer' = 'text') =>
      recognise({ name, values, type }, everywhere).map((finding) => `${finding.classKey} ${finding.state}`);
    const digits = many(200, (i) => String(210_000_000 + i * 3_456_789).slice(0, 9));
    expect(of('order_no', digits)).toEqual([]);
    expect(of('c7', digits, 'integer')).toEqual([]);
    const norwegian = many(200, (i) => `47${String(22_000_000 + i * 7919).slice(0, 8)}`);
    expect(of('mobile', norwegian)).toEqual(['phone certain']);
    expect(of('mobile', norwegian, 'integer')).toEqual(['phone certain']);
    expect(of('c7', norwegian)).toEqual([]);
    const addresses = many(200, (i) => `${10 + (i % 200)}.${(i * 37) % 256}.${(i * 91) % 256}.${(i * 53) % 256}`);
    expect(of('c7', addresses)).toEqual(['ip-address certain']);
    // Written with a plus, numbers that nobody has given out count as well.
    expect(
      of(
        'c7',
        many(200, (i) => `+44195530${String(i).padStart(4, '0')}`),
      ),
    ).toEqual(['phone certain']);
  });

  it('does not depend on the order of the values', () => {
    const values = many(60, (i) => (i % 3 ? `a${i}@example.org` : 'none'));
    fc.assert(
      fc.property(fc.shuffledSubarray(values, { minLength: values.length }), (shuffled) => {
        const strip = (list: ReturnType<typeof recognise>) => list.map(({ examples, ...rest }) => rest);
        expect(strip(recognise({ name: 'x', values: shuffled, type: 'text' }, setting))).toEqual(
          strip(recognise({ name: 'x', values, type: 'text' }, setting)),
        );
      }),
      { numRuns: 30 },
    );
  });
});

describe('examples and levels', () => {
  it('never shows more than the first letter and two digits', () => {
    fc.assert(
      fc.property(fc.string({ minLength: 3, maxLength: 80 }), (value) => {
        const shown = maskExample(value);
        expect((shown.match(/\p{L}/gu) ?? []).length).toBeLessThanOrEqual(1);
        expect((shown.match(/\d/g) ?? []).length).toBeLessThanOrEqual(2);
      }),
    );
    expect(maskExample('4111 1111 1111 1111')).toBe('•••• •••• •••• ••11');
  });

  it('takes the highest level of the classes', () => {
    expect(levelFromClasses(['url', 'email'])).toBe(3);
    expect(levelFromClasses(['email', 'iban'])).toBe(4);
    expect(levelFromClasses([])).toBeUndefined();
  });
});

describe('days of birth', () => {
  const two = (number: number) => String(number).padStart(2, '0');
  const month = (language: string, at: Date, length: 'long' | 'short') =>
    new Intl.DateTimeFormat(language, { month: length, day: 'numeric', timeZone: 'UTC' })
      .formatToParts(at)
      .find((part) => part.type === 'month')?.value ?? '';
  const forms: [string, (y: number, m: number, d: number, at: Date) => string][] = [
    ['ISO', (y, m, d) => `${y}-${two(m)}-${two(d)}`],
    ['ISO with slashes', (y, m, d) => `${y}/${m}/${d}`],
    ['compact', (y, m, d) => `${y}${two(m)}${two(d)}`],
    ['with dots', (y, m, d) => `${d}.${m}.${y}`],
    ['English', (y, _m, d, at) => `${month('en', at, 'long')} ${d}, ${y}`],
    ['English, short', (y, _m, d, at) => `${two(d)}-${month('en', at, 'short').toUpperCase()}-${y}`],
    ['German', (y, _m, d, at) => `${d}. ${month('de', at, 'long')} ${y}`],
    ['Norwegian', (y, _m, d, at) => `${d}. ${month('nb', at, 'short')} ${y}`],
    ['French', (y, _m, d, at) => `${d} ${month('fr', at, 'long')} ${y}`],
    ['Spanish', (y, _m, d, at) => `${d} de ${month('es', at, 'long')} de ${y}`],
    ['Polish', (y, _m, d, at) => `${d} ${month('pl', at, 'long')} ${y}`],
    ['Russian', (y, _m, d, at) => `${d} ${month('ru', at, 'long')} ${y}`],
  ];
  it.each(forms)('are read as people and systems write them: %s', (_name, write) => {
    fc.assert(
      fc.property(fc.date({ min: new Date('1920-01-01'), max: new Date('2020-12-31'), noInvalidDate: true }), (at) => {
        const [year, number, day] = [at.getUTCFullYear(), at.getUTCMonth() + 1, at.getUTCDate()];
        expect(readDay(write(year, number, day, at))).toEqual({ year, month: number, day });
      }),
    );
  });

  it('are none where no calendar has them', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1900, max: 2100 }),
        fc.integer({ min: 13, max: 99 }),
        fc.integer({ min: 32, max: 99 }),
        (year, number, day) => readDay(`${year}-${number}-${day}`) === undefined,
      ),
    );
    for (const value of ['30 February 1984', 'Smarch 4, 1984', '1984-02-30', '31.04.1984', '14 of 1984', ''])
      expect(readDay(value), value).toBeUndefined();
  });
});

describe('names in their own letters', () => {
  it.each([
    ['Анна Иванова', true],
    ['ИВАНОВ Сергей', true],
    ['Γιώργος Παπαδόπουλος', true],
    ['佐藤 翔', true],
    ['王伟', true],
    ['김민준', true],
    ['محمد أحمد', true],
    ['דוד כהן', true],
    ['E. Schmidt', true],
    ['schmidt emma', true],
    ['Московский вокзал', false],
    ['東京都', false],
    ['北京市', false],
    ['서울특별시', false],
    ['ferry terminal', false],
    ['a b c', false],
  ])('%s: %s', (value, is) => {
    expect(isPersonName(value)).toBe(is);
  });
});
