import { isValidIBAN } from 'ibantools';
import { isValidPhoneNumber } from 'libphonenumber-js/max';
import validator from 'validator';
import { byStandard } from './standard.ts';

/** Personal data inside of a text: what it is, and where it stands (offsets in UTF-16 units, the end not included). */
export interface TextPlace {
  readonly kind: string;
  readonly start: number;
  readonly end: number;
}

/** What texts are like: how they were written, not what about. */
export const TEXT_KINDS = ['message', 'log', 'record', 'markup', 'note', 'prose'] as const;
export type TextKind = (typeof TEXT_KINDS)[number];

/** A text without its words: how long it is, and what stands where. */
export interface TextExample {
  readonly length: number;
  readonly places: readonly TextPlace[];
}
/** What the texts of a column are like. */
export interface TextEvidence {
  readonly kind: TextKind;
  /** Share of the texts that are of that kind, 0 to 1. */
  readonly share: number;
  /** At most five. */
  readonly examples: readonly TextExample[];
}

const BEFORE_AT = /[^\s@<>()[\],;:"']{1,64}$/;
const AFTER_AT = /^[a-z0-9-]{1,63}(?:\.[a-z0-9-]{1,63}){1,6}/i;
const DIGIT_RUN = /\+?\d[\d\s().-]{6,26}\d/g;
const IBAN_RUN = /\b[A-Z]{2}\d{2}(?:\s?[A-Z0-9]{2,4}){3,8}\b/g;

const isDni = byStandard('ES', 'dni');
const isNie = byStandard('ES', 'nie');

/**
 * Identifiers of persons whose form alone stands out of running text: letters at fixed places, separators, or two check digits. Others, ten digits with one check
 * digit say, would be found in every list of order numbers.
 */
const IDENTIFIERS: readonly { readonly form: RegExp; readonly passes: (value: string) => boolean }[] = [
  { form: /\b\d{11}\b|\b\d{6} \d{5}\b/g, passes: byStandard('NO', 'fodselsnummer') },
  { form: /\b[A-Z]{6}\d{2}[A-EHLMPR-T]\d{2}[A-Z]\d{3}[A-Z]\b/g, passes: byStandard('IT', 'codicefiscale') },
  { form: /\b[XYZ\d]\d{7}-?[A-Z]\b/g, passes: (value) => isDni(value) || isNie(value) },
  { form: /\b\d{6}[-+A-F]\d{3}[0-9A-Y]\b/g, passes: byStandard('FI', 'hetu') },
  { form: /\b[12] ?\d{2} ?(?:0[1-9]|1[0-2]) ?\d{2} ?\d{3} ?\d{3} ?\d{2}\b/g, passes: byStandard('FR', 'nir') },
  { form: /\b[A-CEGHJ-PR-TW-Z][A-CEGHJ-NPR-TW-Z] ?\d{2} ?\d{2} ?\d{2} ?[A-D]\b/g, passes: byStandard('GB', 'nino') },
  { form: /\b(?!000|666|9\d\d)\d{3}-(?!00)\d{2}-(?!0000)\d{4}\b/g, passes: byStandard('US', 'ssn') },
];

/** A text has at least four words with letters; shorter values belong to the other detectors. */
const isText = (value: string): boolean =>
  value.length >= 20 && (value.match(/(?:^|\s)\p{L}{2,}(?=[\s.,;:!?)]|$)/gu)?.length ?? 0) >= 4;

function* emails(value: string): Generator<TextPlace> {
  // From one @ to the next: a search from every letter on would look at each text many times over.
  for (let at = value.indexOf('@'); at >= 0; at = value.indexOf('@', at + 1)) {
    const local = BEFORE_AT.exec(value.slice(Math.max(0, at - 64), at))?.[0];
    const host = AFTER_AT.exec(value.slice(at + 1, at + 400))?.[0].replace(/[.,;:]+$/, '');
    if (local && host && validator.isEmail(`${local}@${host}`))
      yield { kind: 'e-mail address', start: at - local.length, end: at + 1 + host.length };
  }
}

function* numbers(value: string): Generator<TextPlace> {
  for (const { 0: run, index: start } of value.matchAll(DIGIT_RUN)) {
    const digits = run.replace(/\D/g, '');
    const end = start + run.length;
    if (digits.length >= 13 && validator.isCreditCard(digits)) yield { kind: 'payment card number', start, end };
    else if (run.startsWith('+') && isValidPhoneNumber(run)) yield { kind: 'phone number', start, end };
    else if (/^0\d{9,10}$/.test(digits) && /^0[\d\s]+$/.test(run) && isValidPhoneNumber(run, 'GB'))
      yield { kind: 'phone number', start, end };
  }
}

function* identifiers(value: string): Generator<TextPlace> {
  for (const { 0: run, index: start } of value.matchAll(IBAN_RUN))
    if (isValidIBAN(run.replace(/\s/g, ''))) yield { kind: 'bank account', start, end: start + run.length };
  for (const { form, passes } of IDENTIFIERS)
    for (const { 0: run, index: start } of value.matchAll(form))
      if (passes(run.replace(/\s/g, ''))) yield { kind: 'national identifier', start, end: start + run.length };
}

/** What personal data stands inside a text, by place; nothing when it is no running text. Where two overlap, the longer one counts. */
export function findInText(value: string): TextPlace[] {
  if (!/[@\d]/.test(value) || !isText(value)) return [];
  const found = [...emails(value), ...identifiers(value), ...numbers(value)].sort(
    (a, b) => b.end - b.start - (a.end - a.start),
  );
  const kept: TextPlace[] = [];
  for (const place of found)
    if (!kept.some((other) => place.start < other.end && other.start < place.end)) kept.push(place);
  return kept.sort((a, b) => a.start - b.start);
}

const GREETING =
  /^\s*(dear|hello|hi|hey|good (morning|afternoon|evening)|hei|hej|kjære|käre|hallo|guten (tag|morgen)|sehr geehrte|liebe|beste|geachte|bonjour|chère?|hola|estimad[oa]|buongiorno|gentile|caro)\b/iu;
const CLOSING =
  /\b((kind|best|warm)? ?regards|yours (sincerely|faithfully)|cheers|(med )?(vennlig )?hilsen|mvh|mit freundlichen grüßen|viele grüße|groeten|cordialement|saludos|cordiali saluti)\b[\s\S]{0,80}$/iu;

/** How one text was written. */
function kindOf(value: string): TextKind {
  if (/<\/?[a-z][^>]*>|[{};]\s*$|^\s*[[{]/im.test(value)) return 'markup';
  if (
    /^\s*(\[?\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}|\d{1,3}(\.\d{1,3}){3}\s)/.test(value) ||
    /\b(DEBUG|INFO|WARN(ING)?|ERROR|FATAL)\b/.test(value)
  )
    return 'log';
  if (GREETING.test(value) || CLOSING.test(value)) return 'message';
  if ((value.match(/(?:^|[;,|\n])\s*[\p{L} _-]{2,24}[:=]\s*\S/gu)?.length ?? 0) >= 2) return 'record';
  return value.length > 280 || (value.match(/[.!?](\s|$)/g)?.length ?? 0) > 3 ? 'prose' : 'note';
}

const LOOKED_AT = 400;

/** What the texts of a column are like, as most of them are. */
export function describeTexts(values: Iterable<string>): TextEvidence | undefined {
  const counts = new Map<TextKind, number>();
  const examples: TextExample[] = [];
  let looked = 0;
  for (const value of values) {
    if (!isText(value)) continue;
    looked += 1;
    if (looked > LOOKED_AT && examples.length >= 5) break;
    if (looked <= LOOKED_AT) {
      const kind = kindOf(value);
      counts.set(kind, (counts.get(kind) ?? 0) + 1);
    }
    const places = examples.length < 5 ? findInText(value) : [];
    if (places.length > 0) examples.push({ length: value.length, places });
  }
  const [most] = [...counts].sort((a, b) => b[1] - a[1]);
  return most && { kind: most[0], share: Math.round((most[1] / Math.min(looked, LOOKED_AT)) * 1000) / 1000, examples };
}
