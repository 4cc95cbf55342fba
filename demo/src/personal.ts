import { faker, fakerDE, fakerEN_GB, fakerNB_NO } from '@faker-js/faker';
import type { Random } from './random.ts';

const LOCALES = [fakerEN_GB, fakerNB_NO, fakerDE, faker];

export interface Traveller {
  given: string;
  family: string;
  email: string;
  phone: string;
  street: string;
  postcode: string;
  town: string;
  country: string;
}

/** Starts the name generators at a fixed place. */
export const seedNames = (seed: number): void => {
  for (const locale of LOCALES) locale.seed(seed);
};

const PREFIX: Record<string, string> = { GB: '+44 7', NO: '+47 4', DE: '+49 151', US: '+1 212' };

/** An invented traveller; addresses end in example domains, phone numbers in ranges of mobile numbers. */
export function traveller(random: Random, index: number): Traveller {
  const at = random.next() < 0.55 ? 0 : 1 + random.below(3);
  const locale = LOCALES[at] ?? fakerEN_GB;
  const country = ['GB', 'NO', 'DE', 'US'][at] ?? 'GB';
  const [given, family] = [locale.person.firstName(), locale.person.lastName()];
  const mailbox = `${given}.${family}${index % 97}`
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/ø/g, 'o')
    .replace(/[^a-z0-9.]/g, '');
  const phone =
    country === 'GB'
      ? `${PREFIX.GB}${400 + random.below(500)} ${random.digits(6)}`
      : country === 'NO'
        ? `+47 4${random.digits(1)} ${random.digits(2)} ${random.digits(2)} ${random.digits(2)}`
        : country === 'DE'
          ? `+49 151 ${random.digits(8)}`
          : `+1 212 ${200 + random.below(700)} ${random.digits(4)}`;
  return {
    given,
    family,
    email: `${mailbox}@${random.pick(['example.org', 'example.com', 'post.example.net'])}`,
    phone,
    street: locale.location.streetAddress(),
    postcode: locale.location.zipCode(),
    town: locale.location.city(),
    country,
  };
}

/** Appends the check digit of ISO/IEC 7812-1 (Luhn), or one that is wrong on purpose. */
export function withLuhn(body: string, valid: boolean): string {
  const sum = [...body].reverse().reduce((total, digit, index) => {
    const doubled = index % 2 === 0 ? Number(digit) * 2 : Number(digit);
    return total + (doubled > 9 ? doubled - 9 : doubled);
  }, 0);
  const check = (10 - (sum % 10)) % 10;
  return `${body}${valid ? check : (check + 3) % 10}`;
}

/** An IBAN with right check digits (ISO 13616) for a country and account part. */
export function iban(country: string, account: string): string {
  const numeric = [...`${account}${country}00`]
    .map((character) => (/[A-Z]/.test(character) ? String(character.charCodeAt(0) - 55) : character))
    .join('');
  const check = 98n - (BigInt(numeric) % 97n);
  return `${country}${String(check).padStart(2, '0')}${account}`;
}

/** A Norwegian identifier with right check digits for a birthday. */
export function norwegianId(random: Random, birth: string): string {
  const head = `${birth.slice(8, 10)}${birth.slice(5, 7)}${birth.slice(2, 4)}`;
  for (;;) {
    const nine = `${head}${random.digits(3)}`;
    const weigh = (weights: number[], digits: string) =>
      11 - (weights.reduce((sum, weight, index) => sum + weight * Number(digits[index]), 0) % 11);
    const first = weigh([3, 7, 6, 1, 8, 9, 4, 5, 2], nine) % 11;
    if (first === 10) continue;
    const second = weigh([5, 4, 3, 2, 7, 6, 5, 4, 3, 2], `${nine}${first}`) % 11;
    if (second !== 10) return `${nine}${first}${second}`;
  }
}
