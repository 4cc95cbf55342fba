import { isValidIBAN } from 'ibantools';
import { isValidPhoneNumber } from 'libphonenumber-js/max';
import validator from 'validator';
import type { Detector } from '../types.ts';

const EMAIL = /[^\s@<>()[\],;:"']{1,64}@[a-z0-9-]{1,63}(?:\.[a-z0-9-]{1,63}){1,6}/i;
const DIGIT_RUN = /\+?\d[\d\s().-]{6,26}\d/g;
const IBAN_RUN = /\b[A-Z]{2}\d{2}(?:\s?[A-Z0-9]{2,4}){3,8}\b/g;

/** What personal data stands inside a text: the kinds found, joined with a comma, or false when it is no running text or holds none. */
export function personalDataInText(value: string): string | false {
  // A text has at least four words with letters; shorter values belong to the other detectors.
  if (value.length < 20 || (value.match(/(?:^|\s)\p{L}{2,}(?=[\s.,;:!?)]|$)/gu)?.length ?? 0) < 4 || !/[@\d]/.test(value)) return false;
  const kinds = new Set<string>();
  const address = EMAIL.exec(value)?.[0]?.replace(/[.,;:]+$/, '');
  if (address && validator.isEmail(address)) kinds.add('e-mail address');
  for (const [run] of value.matchAll(DIGIT_RUN)) {
    const digits = run.replace(/\D/g, '');
    if (digits.length >= 13 && validator.isCreditCard(digits)) kinds.add('payment card number');
    else if (run.startsWith('+') && isValidPhoneNumber(run)) kinds.add('phone number');
    else if (/^0\d{9,10}$/.test(digits) && /^0[\d\s]+$/.test(run) && isValidPhoneNumber(run, 'GB')) kinds.add('phone number');
  }
  for (const [run] of value.matchAll(IBAN_RUN)) if (isValidIBAN(run.replace(/\s/g, ''))) kinds.add('bank account');
  return kinds.size > 0 ? [...kinds].sort().join(', ') : false;
}

export const personalText: Detector = {
  id: 'text.personal',
  version: '1',
  classKey: 'personal-text',
  strength: 0.93,
  types: ['text', 'other'],
  minShare: 0.01,
  minShareNamed: 0.002,
  namesFor: ['note', 'notes', 'comment', 'comments', 'remark', 'remarks', 'message', 'text', 'body', 'description', 'letter', 'feedback', 'complaint', 'misc', 'memo'],
  namesAgainst: [],
  test: personalDataInText,
  accepts: ['Please write to ida.holm@example.org about the refund', 'Caller left +47 22 12 34 56 and asked to be called back'],
  rejects: ['ida.holm@example.org', 'The ferry left at 06:30 with 214 passengers on board', 'Ticket 1234567890123456 was scanned twice at the gate'],
};
